package jobs

import (
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"time"

	"github.com/riverqueue/river"

	"zealousmargin.example/internal/inbox"
	"zealousmargin.example/internal/store"
)

// hookArgs asks for an address to be told of a return.
type hookArgs struct {
	Call int64 `json:"call" river:"unique"`
}

// Kind names the job in the queue.
func (hookArgs) Kind() string { return store.WorkHook }

type caller struct {
	river.WorkerDefaults[hookArgs]
	store *store.Store
	inbox *inbox.Reader
}

// Timeout leaves the other side time to answer.
func (*caller) Timeout(*river.Job[hookArgs]) time.Duration { return time.Minute }

// callClient follows no redirects: what was signed is for one address.
var callClient = &http.Client{
	Timeout: 20 * time.Second, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
}

// Told is what an address is told of a return.
type Told struct {
	Return   int64             `json:"return"`
	Document int64             `json:"document"`
	Edition  int               `json:"edition"`
	Received time.Time         `json:"received"`
	Road     string            `json:"road"`
	State    string            `json:"state"`
	Answers  map[string]string `json:"answers"` // by the names of the fields in their edition
	Broken   map[string]string `json:"broken,omitempty"`
}

// Work tells an address of a return, by POST. What is not taken (by a status of 2xx) is told again, for hours.
func (w *caller) Work(ctx context.Context, job *river.Job[hookArgs]) error {
	c, err := w.store.Call(ctx, job.Args.Call)
	if err != nil || c.State != "waiting" {
		return gone(err)
	}
	body, err := w.told(ctx, c.ReturnID)
	if err != nil {
		return gone(err)
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, c.URL, bytes.NewReader(body))
	if err != nil {
		return w.store.EndCall(ctx, c.ID, "failed", err.Error())
	}
	SignCall(req, body, c.Secret, fmt.Sprintf("hook-%d", c.HookID), time.Now())
	res, err := callClient.Do(req)
	if err == nil {
		_, _ = io.Copy(io.Discard, io.LimitReader(res.Body, 1<<16))
		_ = res.Body.Close()
		if res.StatusCode/100 == 2 {
			return w.store.EndCall(context.WithoutCancel(ctx), c.ID, "sent", "")
		}
		err = fmt.Errorf("it answered %s", res.Status)
	}
	if why, yes := stopped(ctx, err); yes {
		return why
	}
	if kept := w.store.PutOffCall(context.WithoutCancel(ctx), c.ID, err.Error()); kept != nil {
		return kept
	}
	return err
}

func (w *caller) told(ctx context.Context, id int64) ([]byte, error) {
	r, err := w.store.Return(ctx, id)
	if err != nil {
		return nil, err
	}
	forms, err := w.inbox.FormsOf(ctx, r.DocumentID)
	if err != nil {
		return nil, err
	}
	t := Told{Return: r.ID, Document: r.DocumentID, Received: r.ReceivedAt.UTC(), Road: r.Road, State: r.State}
	if r.Edition != nil {
		t.Edition = *r.Edition
	}
	t.Answers, t.Broken = forms.Named(t.Edition, r.Answers()), forms.Named(t.Edition, r.Broken())
	return json.Marshal(t)
}

// SignCall signs a request as HTTP message signatures have it (RFC 9421, 2.5 and 3.3.3), with HMAC-SHA-256 over the method, the address and
// the digest of the body (RFC 9530).
func SignCall(r *http.Request, body, secret []byte, key string, now time.Time) {
	sum := sha256.Sum256(body)
	digest := "sha-256=:" + base64.StdEncoding.EncodeToString(sum[:]) + ":"
	params := fmt.Sprintf(`("@method" "@target-uri" "content-digest");created=%d;keyid="%s";alg="hmac-sha256"`, now.Unix(), key)
	base := fmt.Sprintf(
		"\"@method\": %s\n\"@target-uri\": %s\n\"content-digest\": %s\n\"@signature-params\": %s",
		r.Method,
		r.URL,
		digest,
		params,
	)
	mac := hmac.New(sha256.New, secret)
	mac.Write([]byte(base))
	h := r.Header
	h.Set("Content-Type", "application/json")
	h.Set("Content-Digest", digest)
	h.Set("Signature-Input", "told="+params)
	h.Set("Signature", "told=:"+base64.StdEncoding.EncodeToString(mac.Sum(nil))+":")
}
