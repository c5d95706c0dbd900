package frame

import (
	"context"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"strings"
	"sync"
	"time"

	"zealousmargin.example/internal/store"
)

// origin is where a request comes from, as far as it can be known.
type origin struct {
	sender string // the address on the network
	https  bool   // over https, as a proxy that is believed says
}

type originKey struct{}

// set is what is set for the office and asked at every request, as it was some seconds ago.
type set struct {
	mu    sync.Mutex
	read  time.Time
	proxy netip.Prefix
	name  string
}

// settings reads what is set, at most every few seconds.
func (s *Frame) settings(ctx context.Context) (proxy netip.Prefix, name string) {
	s.set.mu.Lock()
	defer s.set.mu.Unlock()
	if time.Since(s.set.read) > 5*time.Second {
		s.set.read = time.Now()
		if v, err := s.Store.Setting(ctx, store.Proxy); err == nil {
			s.set.proxy, _ = netip.ParsePrefix(v) // checked when it was set; empty is none
		}
		if v, err := s.Store.Setting(ctx, store.OfficeName); err == nil {
			s.set.name = v
		}
	}
	return s.set.proxy, s.set.name
}

// Refresh has what is set for the office read anew.
func (s *Frame) Refresh() {
	s.set.mu.Lock()
	defer s.set.mu.Unlock()
	s.set.read = time.Time{}
}

// Outward finds out where requests come from. What they say of that themselves is believed only when the proxy has said it that an
// administrator has named (OWASP ASVS 5.0, 4.1.3, from memory). Over https, cookies are for https only, and browsers keep to it
// (RFC 6797; RFC 6265bis, 4.1.2.5).
func (s *Frame) Outward(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		host, _, err := net.SplitHostPort(r.RemoteAddr)
		if err != nil {
			host = r.RemoteAddr
		}
		o := origin{sender: host, https: r.TLS != nil}
		if strings.HasPrefix(r.URL.Path, "/static/") || r.URL.Path == "/healthz" {
			next.ServeHTTP(w, r)
			return
		}
		proxy, _ := s.settings(r.Context())
		if a, err := netip.ParseAddr(host); err == nil && proxy.IsValid() && proxy.Contains(a.Unmap()) {
			o.https = r.Header.Get("X-Forwarded-Proto") == "https"
			list := strings.Split(r.Header.Get("X-Forwarded-For"), ",")
			for i := len(list) - 1; i >= 0; i-- { // what stands further left is what the sender says
				b, err := netip.ParseAddr(strings.TrimSpace(list[i]))
				if err != nil {
					break
				}
				if o.sender = b.Unmap().String(); !proxy.Contains(b.Unmap()) {
					break
				}
			}
		}
		if o.https {
			w.Header().Set("Strict-Transport-Security", "max-age=31536000")
			w = &overHTTPS{ResponseWriter: w}
		}
		next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), originKey{}, o)))
	})
}

// overHTTPS marks every cookie that is set as one for https only.
type overHTTPS struct {
	http.ResponseWriter
	begun bool
}

func (w *overHTTPS) WriteHeader(code int) {
	if !w.begun {
		w.begun = true
		for i, c := range w.Header()["Set-Cookie"] {
			if !strings.Contains(c, "; Secure") {
				w.Header()["Set-Cookie"][i] = c + "; Secure"
			}
		}
	}
	w.ResponseWriter.WriteHeader(code)
}

func (w *overHTTPS) Write(b []byte) (int, error) {
	if !w.begun {
		w.WriteHeader(http.StatusOK)
	}
	return w.ResponseWriter.Write(b)
}

// Unwrap is for [http.ResponseController].
func (w *overHTTPS) Unwrap() http.ResponseWriter { return w.ResponseWriter }

// Sender is where a request comes from on the network; what it says of itself does not count.
func Sender(r *http.Request) string {
	if o, ok := r.Context().Value(originKey{}).(origin); ok {
		return o.sender
	}
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		return r.RemoteAddr
	}
	return host
}

// Noted adds a row to the log; that it cannot be added stops nothing.
func (s *Frame) Noted(ctx context.Context, by int64, deed, about string) {
	if err := s.Store.Note(context.WithoutCancel(ctx), by, deed, about); err != nil {
		slog.Warn("the log was not added to", "deed", deed, "error", err)
	}
}
