package frame

import (
	"context"
	"fmt"

	"zealousmargin.example/internal/post"
)

// Send sends a message; where there is no post, it is printed where the application was started.
func (s *Frame) Send(ctx context.Context, m post.Message) error {
	if s.post != nil {
		return s.post.Send(ctx, m)
	}
	fmt.Printf("\n  To: %s\n  %s\n\n  %s\n\n", m.To, m.Subject, m.Text)
	return nil
}
