package web

import (
	"context"
	"crypto/rand"
	"log/slog"
	"net/http"
	"strconv"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// watch counts requests by their route: no address and no name of a person or a document is in it.
type watch struct {
	all  *prometheus.Registry
	took *prometheus.HistogramVec
}

func newWatch(s *store.Store) *watch {
	w := &watch{all: prometheus.NewRegistry(), took: prometheus.NewHistogramVec(prometheus.HistogramOpts{
		Name: "zealous_margin_request_seconds", Help: "How long requests took, by route and answer.",
		Buckets: []float64{0.01, 0.03, 0.1, 0.3, 1, 3, 10, 30},
	}, []string{"method", "route", "code"})}
	w.all.MustRegister(w.took, jobsWaiting{s}, prometheus.NewGaugeFunc(prometheus.GaugeOpts{
		Name: "zealous_margin_engines", Help: "Processes that have a PDF file open.",
	}, func() float64 { return float64(engine.Busy()) }))
	return w
}

// jobsWaiting tells how many jobs wait and run, by kind.
type jobsWaiting struct{ *store.Store }

var queued = prometheus.NewDesc("zealous_margin_jobs", "Jobs on the queue, by kind and state.", []string{"kind", "state"}, nil)

func (jobsWaiting) Describe(out chan<- *prometheus.Desc) { out <- queued }

func (j jobsWaiting) Collect(out chan<- prometheus.Metric) {
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	list, err := j.Queue(ctx)
	if err != nil {
		out <- prometheus.NewInvalidMetric(queued, err)
		return
	}
	for _, q := range list {
		out <- prometheus.MustNewConstMetric(queued, prometheus.GaugeValue, float64(q.Count), q.Kind, q.State)
	}
}

// Metrics answers with what was counted, in the format of Prometheus.
func (srv *Server) Metrics() http.Handler {
	return promhttp.HandlerFor(srv.watch.all, promhttp.HandlerOpts{})
}

// watched gives every request a number, which its answer and all lines of the log about it have, and counts it.
func (srv *Server) watched(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		id := rand.Text()[:10]
		c.Set(frame.RequestID, id)
		c.Response().Header().Set("X-Request-Id", id)
		begun := time.Now()
		err := next(c)
		if err != nil {
			srv.frame.Fail(c, err)
		}
		code := 0
		if r, uerr := echo.UnwrapResponse(c.Response()); uerr == nil {
			code = r.Status
		}
		took := time.Since(begun)
		srv.watch.took.WithLabelValues(c.Request().Method, c.Path(), strconv.Itoa(code)).Observe(took.Seconds())
		slog.Debug("request", "request", id, "method", c.Request().Method, "route", c.Path(), "code", code, "ms", took.Milliseconds())
		return nil
	}
}
