package main

import (
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/mail"
	"os"
	"os/signal"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/post"
	"zealousmargin.example/internal/standin"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web"
	"zealousmargin.example/internal/web/frame"
)

// settings are the flags that serve, work and demo share.
type settings struct {
	database, address, office string
	public                    string // the address from outside, where none is set in the application
	workers                   int
	keyFile                   string // that kept certificates are encrypted with
	smtp, from                string // the mail server, and the sender of messages
	post                      *post.Server
	tray                      *standin.PostTray // where there is no mail server
	secure                    bool
	metrics                   string // where what is counted can be read
	logJSON, logRequests      bool
	answers                   int // a minute from one address on the network
}

func (s *settings) flags(c *cobra.Command, workers int) {
	c.Flags().StringVar(&s.database, "database", os.Getenv("ZM_DATABASE_URL"), "PostgreSQL address (or ZM_DATABASE_URL)")
	c.Flags().IntVar(&s.workers, "workers", workers, "how many background jobs run at once")
	c.Flags().StringVar(&s.keyFile, "key-file", os.Getenv("ZM_KEY_FILE"), "the key that kept certificates are encrypted with (or "+
		"ZM_KEY_FILE); it is made where there is none. Without one it lies in the folder for settings of whoever runs the application")
	c.Flags().StringVar(&s.smtp, "smtp", os.Getenv("ZM_SMTP"), "the mail server, such as smtp://user@mail.office.example:587 or "+
		"smtps://… (or ZM_SMTP); its password stands in ZM_SMTP_PASSWORD. Without one messages lie in the post tray")
	c.Flags().StringVar(&s.from, "smtp-from", os.Getenv("ZM_SMTP_FROM"), "the sender of messages, such as \"Harbour office "+
		"<forms@office.example>\" (or ZM_SMTP_FROM)")
	c.Flags().BoolVar(&s.logJSON, "log-json", false, "write the log as JSON, a line an event")
	c.Flags().BoolVar(&s.logRequests, "log-requests", false, "write a line for every request, too")
}

func (s *settings) pageFlags(c *cobra.Command) {
	c.Flags().StringVar(&s.address, "address", "127.0.0.1:8470", "where to listen")
	c.Flags().StringVar(&s.public, "public-address", os.Getenv("ZM_PUBLIC_ADDRESS"),
		"where the application is reached from outside, such as https://forms.example (or ZM_PUBLIC_ADDRESS); what the settings say "+
			"goes before it")
	c.Flags().StringVar(&s.metrics, "metrics-address", "", "where Prometheus may read what is counted, such as 127.0.0.1:9470; empty for "+
		"nowhere")
	c.Flags().IntVar(&s.answers, "answers-a-minute", 0, "how many answers are taken a minute from one address on the network, "+
		"behind which several people may be; thirty when nothing is said")
	c.Flags().BoolVar(&s.secure, "secure-cookies", false, "send cookies over https only")
}

func (s *settings) open(ctx context.Context) (*store.Store, *jobs.Queue, error) {
	if s.database == "" {
		return nil, nil, usageError{errors.New("name the database: --database postgres://... or ZM_DATABASE_URL")}
	}
	st, err := store.Open(ctx, s.database)
	if err != nil {
		return nil, nil, err
	}
	if st.Key, err = s.key(); err != nil {
		st.Close()
		return nil, nil, err
	}
	if err := s.openPost(st); err != nil {
		st.Close()
		return nil, nil, err
	}
	q, err := jobs.New(ctx, st, jobs.Options{Workers: s.workers, Post: s.post})
	if err != nil {
		st.Close()
		return nil, nil, err
	}
	return st, q, nil
}

// key reads the key that kept certificates are encrypted with; none where nobody has said where it lies and there is no folder for it.
func (s *settings) key() ([]byte, error) {
	if s.keyFile != "" {
		key, err := store.KeyFile(s.keyFile)
		if err != nil {
			err = fmt.Errorf("--key-file: %w", err)
		}
		return key, err
	}
	dir, err := os.UserConfigDir()
	var key []byte
	if err == nil {
		key, err = store.KeyFile(filepath.Join(dir, "zealous-margin", "key"))
	}
	if err != nil { // the page for certificates says so, too
		slog.Warn("no certificates can be kept: there is no place for the key that encrypts them; say one with --key-file", "error", err)
	}
	return key, nil
}

// openPost finds the mail server, or opens the post tray in its place.
func (s *settings) openPost(st *store.Store) (err error) {
	at, from := s.smtp, s.from
	if at == "" {
		s.tray, err = standin.OpenPostTray(func(ctx context.Context, c standin.Caught) error {
			return st.Catch(ctx, c.ID, c.From, c.To, c.Raw)
		})
		if err != nil {
			return err
		}
		at, from = s.tray.Address(), cmp.Or(from, (&mail.Address{Name: s.office, Address: "office@post-tray.invalid"}).String())
	} else if from == "" {
		return usageError{errors.New("say who the messages are from: --smtp-from \"Harbour office <forms@office.example>\", " +
			"or ZM_SMTP_FROM")}
	}
	if s.post, err = post.NewServer(at, os.Getenv("ZM_SMTP_PASSWORD"), from); err != nil {
		return usageError{fmt.Errorf("--smtp: %w", err)}
	}
	return nil
}

// log sets how the log is written: to standard error.
func (s *settings) log() {
	o := &slog.HandlerOptions{}
	if s.logRequests {
		o.Level = slog.LevelDebug
	}
	if s.logJSON {
		slog.SetDefault(slog.New(slog.NewJSONHandler(os.Stderr, o)))
	} else {
		slog.SetDefault(slog.New(slog.NewTextHandler(os.Stderr, o)))
	}
}

// run opens the database and the queue, and works until a signal comes.
func (s *settings) run(work func(context.Context, *store.Store, *jobs.Queue) error) error {
	s.log()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	st, q, err := s.open(ctx)
	if err != nil {
		return err
	}
	defer st.Close()
	if s.tray != nil {
		defer func() { _ = s.tray.Close() }()
	}
	return work(ctx, st, q)
}

func serveCommand() *cobra.Command {
	var s settings
	c := &cobra.Command{
		Use: "serve", Short: "Start the application", Args: args(0, "[--address A] [--database URL] [--workers N]"),
		RunE: func(*cobra.Command, []string) error {
			return s.run(func(ctx context.Context, st *store.Store, q *jobs.Queue) error {
				return serve(ctx, st, q, s, frame.Options{})
			})
		},
	}
	s.flags(c, 2)
	s.pageFlags(c)
	c.Flags().StringVar(&s.office, "office", "Forms office", "the name of the office that works here")
	return c
}

func workCommand() *cobra.Command {
	var s settings
	c := &cobra.Command{
		Use: "work", Short: "Run background jobs only", Args: args(0, "[--database URL] [--workers N]"),
		RunE: func(*cobra.Command, []string) error {
			return s.run(func(ctx context.Context, _ *store.Store, q *jobs.Queue) error {
				if err := q.Start(context.WithoutCancel(ctx)); err != nil {
					return err
				}
				<-ctx.Done()
				return stopQueue(q)
			})
		},
	}
	s.flags(c, 2)
	return c
}

func demoCommand() *cobra.Command {
	var s settings
	var only bool
	c := &cobra.Command{
		Use: "demo", Short: "Start the application with the demo office", Args: args(0, "[--address A] [--database URL] [--load-only]"),
		RunE: func(*cobra.Command, []string) error {
			s.office = demo.Office
			return s.run(func(ctx context.Context, st *store.Store, q *jobs.Queue) error {
				if err := demo.Load(ctx, st); err != nil {
					return err
				}
				if err := demo.Returns(ctx, st); err != nil || only {
					return err
				}
				s.public = cmp.Or(s.public, "http://"+s.address)
				return serve(ctx, st, q, s, frame.Options{Hint: demo.SignInHint(), Scanner: demo.Tray()})
			})
		},
	}
	s.flags(c, 2)
	s.pageFlags(c)
	c.Flags().BoolVar(&only, "load-only", false, "load the demo office and stop")
	return c
}

// ownMemory is from where on memory is collected more often, in bytes; the variable GOMEMLIMIT says otherwise.
const ownMemory = 600 << 20

// giveBack returns memory to the system that was needed for a moment: Go by itself takes minutes.
func giveBack(ctx context.Context) {
	for tick := time.NewTicker(5 * time.Second); ; {
		select {
		case <-ctx.Done():
			tick.Stop()
			return
		case <-tick.C:
		}
		var m runtime.MemStats
		if runtime.ReadMemStats(&m); m.HeapIdle-m.HeapReleased > 64<<20 {
			debug.FreeOSMemory()
		}
	}
}

// serve answers requests until ctx ends, then lets what is running finish.
func serve(ctx context.Context, st *store.Store, q *jobs.Queue, s settings, o frame.Options) error {
	if err := q.Start(context.WithoutCancel(ctx)); err != nil {
		return err
	}
	public, err := store.CheckAddress(s.public)
	if err != nil {
		return usageError{fmt.Errorf("--public-address: %w", err)}
	}
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(ownMemory)
	}
	go giveBack(ctx)
	o.Office, o.Secure, o.Post, o.Tray = s.office, s.secure, s.post, s.tray != nil
	o.Reached, o.AnswersAMinute = func() string { return public }, s.answers
	empty, err := st.Empty(ctx)
	if err != nil {
		return err
	}
	if empty { // whoever makes the first account knows the word that stands on the console
		o.FirstWord = rand.Text()[:12]
		fmt.Printf("\n  Nobody has an account yet. Open the address below; the word for the first person is %s\n", o.FirstWord)
	}
	h, stop, err := web.New(st, q, o)
	if err != nil {
		return err
	}
	defer stop()
	l, err := (&net.ListenConfig{}).Listen(ctx, "tcp", s.address)
	if err != nil {
		return fmt.Errorf("%s cannot be used: stop what listens there, or choose another --address: %w", s.address, err)
	}
	srv := &http.Server{
		Handler: h, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute,
		ErrorLog: slog.NewLogLogger(slog.Default().Handler(), slog.LevelWarn),
	}
	if s.metrics != "" {
		counted, err := (&net.ListenConfig{}).Listen(ctx, "tcp", s.metrics)
		if err != nil {
			return fmt.Errorf("%s cannot be used for --metrics-address: choose another: %w", s.metrics, err)
		}
		metrics := &http.Server{Handler: h.Metrics(), ReadHeaderTimeout: 10 * time.Second}
		go func() { _ = metrics.Serve(counted) }()
		defer func() { _ = metrics.Close() }()
	}
	fmt.Printf("\n  Zealous Margin is ready: http://%s\n", l.Addr())
	if o.Hint != "" {
		fmt.Printf("  %s\n", o.Hint)
	}
	fmt.Print("  Ctrl-C stops it.\n\n")
	done := make(chan error, 1)
	go func() { done <- srv.Serve(l) }()
	select {
	case err := <-done:
		return err
	case <-ctx.Done():
	}
	last, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
	defer cancel()
	return errors.Join(srv.Shutdown(last), stopQueue(q))
}

func stopQueue(q *jobs.Queue) error {
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	return q.Stop(ctx)
}
