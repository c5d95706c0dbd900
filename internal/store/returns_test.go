package store_test

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
)

// seeded is a source of chance that is another each time; ZM_SEED brings one back.
func seeded(t *testing.T) *rand.Rand {
	t.Helper()
	seed := rand.Uint64()
	if v, err := strconv.ParseUint(os.Getenv("ZM_SEED"), 10, 64); err == nil {
		seed = v
	}
	t.Logf("ZM_SEED=%d", seed)
	return rand.New(rand.NewPCG(seed, 5))
}

// edition releases a document as it is.
func edition(t *testing.T, s *store.Store, person, doc int64, name string) store.Edition {
	t.Helper()
	d := draft(t, s, doc)
	e, err := s.Release(ctx, store.NewEdition{
		Document: doc, Revision: d.Document.Revision, By: person, PDF: []byte("%PDF " + name), Form: d.Template,
		Name: func(n int) string { return fmt.Sprintf("%s-%d.pdf", name, n) },
	})
	require.NoError(t, err)
	return e
}

// came is a return as the model below knows it.
type came struct {
	id       int64
	edition  int
	road     string
	state    string
	answers  map[string]string
	broken   bool
	unsure   bool
	assigned int64
	digest   string
	link     string // whom its link is for
}

// holds tells whether it is sought: the same as the database is asked for, said in Go.
func (r *came) holds(q store.Sought, all []*came) bool {
	first := func() bool { // an older one that is still there says the same
		return slices.ContainsFunc(all, func(o *came) bool { return o.id < r.id && o.digest == r.digest })
	}
	switch q.State {
	case "":
	case "broken":
		if r.state != "new" || !r.broken {
			return false
		}
	case "unsure":
		if r.state != "new" || !r.unsure {
			return false
		}
	case "double":
		if !first() {
			return false
		}
	case "mine":
		if r.assigned != q.Account {
			return false
		}
	case "waits":
		if r.state != "waiting" {
			return false
		}
	default:
		if r.state != q.State {
			return false
		}
	}
	if q.Edition != 0 && r.edition != q.Edition || q.Road != "" && r.road != q.Road {
		return false
	}
	if q.Key != "" {
		v, is := r.answers[q.Key]
		if q.Answer == "-" && is || q.Answer != "-" && (!is || v != q.Answer) {
			return false
		}
	}
	if q.Words == "" {
		return true
	}
	w := strings.ToLower(q.Words)
	for v := range maps.Values(r.answers) {
		if strings.Contains(strings.ToLower(v), w) {
			return true
		}
	}
	return strings.Contains(strings.ToLower(r.link), w)
}

// before sorts as is asked; what has no answer comes last, whichever way.
func before(q store.Sought) func(a, b *came) int {
	way := -1
	if q.Up {
		way = 1
	}
	number := func(r *came) (float64, bool) {
		v, err := strconv.ParseFloat(r.answers[q.Sort], 64)
		return v, err == nil && !strings.ContainsRune(r.answers[q.Sort], 'e') && !strings.HasSuffix(r.answers[q.Sort], ".")
	}
	return func(a, b *came) int {
		if q.Sort == "" {
			return way * cmp.Compare(a.id, b.id)
		}
		x, isX := a.answers[q.Sort]
		y, isY := b.answers[q.Sort]
		c := strings.Compare(x, y)
		if q.Number {
			var m, n float64
			m, isX = number(a)
			n, isY = number(b)
			c = cmp.Compare(m, n)
		}
		switch {
		case isX != isY && isX:
			return -1
		case isX != isY:
			return 1
		case isX && c != 0:
			return way * c
		}
		return way * cmp.Compare(a.id, b.id)
	}
}

// texts have what is special in patterns, in JSON and in SQL, and letters beyond ASCII.
var texts = []string{
	"Petrel", "100 % sure", "a_b", `back\slash`, `say "so"`, "it's", "Ölund", "two\nlines", "PETREL II", "%", "ключ", "null", "{}",
}

// What is sought among returns of every sort is what a plain reading of them in memory finds, in the same order, however they are leafed
// through; and so it stays while they are corrected, given away, set and deleted.
func TestReturnsAreFoundAsAPlainReadingFindsThem(t *testing.T) {
	rng := seeded(t)
	s, person, doc := office(t)
	other, err := s.AddAccount(ctx, "odalys@example.org", "Odalys Brandt", "preparer", "secret words")
	require.NoError(t, err)
	editions := []store.Edition{edition(t, s, person, doc, "berth")}
	_, err = s.Change(ctx, doc, -1, person, "fit", add("name_vessel", 100))
	require.NoError(t, err)
	editions = append(editions, edition(t, s, person, doc, "berth"))
	links, err := s.MakeFormLinks(ctx, editions[1].ID, person, store.Terms{Note: "Harbour 50%_day"}, []store.For{{}})
	require.NoError(t, err)

	pick := func(of ...string) string { return of[rng.IntN(len(of))] }
	var all []*came
	receive := func() {
		e := rng.IntN(2)
		r := &came{
			edition: editions[e].Number, road: pick("button", "file", "paper"), state: pick("new", "new", "new", "waiting"),
			answers: map[string]string{},
		}
		for _, k := range []string{"vessel", "town", "length"} {
			switch v := pick(texts...); {
			case rng.IntN(3) == 0:
			case k == "length":
				r.answers[k] = pick("7", "12.5", "-3", "007", "100", "1e3", "twelve", "9.")
			default:
				r.answers[k] = v
			}
		}
		r.digest = fmt.Sprint(r.answers)
		u := store.Understood{Edition: &editions[e].ID, Values: r.answers, Waits: r.state == "waiting", Digest: []byte(r.digest)}
		if r.broken = rng.IntN(4) == 0; r.broken {
			u.Broken = map[string]string{"town": "no such town"}
		}
		if r.unsure = rng.IntN(4) == 0; r.unsure {
			u.Unsure = map[string]float64{"vessel": 0.4}
		}
		a := store.Arrived{Target: store.Target{Document: doc}, Road: r.road, Kind: "json", Bytes: []byte(r.digest), Read: &u}
		if e == 1 && rng.IntN(3) == 0 {
			a.Link, r.link = &links[0], "Harbour 50%_day"
		}
		var err error
		r.id, err = s.Receive(ctx, a)
		require.NoError(t, err)
		all = append(all, r)
	}
	compare := func() {
		t.Helper()
		q := store.Sought{Document: doc, Up: rng.IntN(2) == 0}
		if rng.IntN(3) == 0 {
			q.State = pick("broken", "unsure", "double", "mine", "waits", "new", "checked", "refused", "done")
			q.Account = []int64{person, other}[rng.IntN(2)]
		}
		if rng.IntN(4) == 0 {
			q.Edition = 1 + rng.IntN(3)
		}
		if rng.IntN(4) == 0 {
			q.Road = pick("button", "file", "paper", "nowhere")
		}
		if rng.IntN(3) == 0 {
			q.Words = pick(append([]string{"petrel", "ETRE", "50%_", "arbour", "slash", "_", "lines", "ö", "zzz", `"`}, texts...)...)
		}
		if rng.IntN(4) == 0 {
			q.Key, q.Answer = pick("vessel", "town", "nowhere"), pick(append([]string{"-", "-"}, texts...)...)
		}
		if rng.IntN(2) == 0 {
			q.Sort = pick("vessel", "length", "nowhere")
			q.Number = q.Sort == "length"
		}
		var want []int64
		for _, r := range slices.SortedFunc(slices.Values(all), before(q)) {
			if r.holds(q, all) {
				want = append(want, r.id)
			}
		}
		var got []int64
		page := 1 + rng.IntN(9)
		for q.Most = page; ; q.Offset += page {
			list, n, err := s.FindReturns(ctx, q)
			require.NoError(t, err, "%+v", q)
			require.Equal(t, len(want), n, "%+v", q)
			for _, r := range list {
				got = append(got, r.ID)
			}
			if len(list) < page {
				break
			}
		}
		require.Equal(t, want, got, "%+v", q)
		q.Most, q.Offset = 0, 0
		n := 0
		require.NoError(t, s.EachReturn(ctx, q, func(store.Return) error { n++; return nil }))
		require.Equal(t, len(want), n)
	}
	for range 40 {
		receive()
	}
	for range 120 {
		compare()
		k := rng.IntN(len(all))
		r := all[k]
		switch pick("receive", "correct", "state", "assign", "delete") {
		case "receive":
			receive()
		case "correct":
			key, is := pick("vessel", "town"), pick(append([]string{""}, texts...)...)
			was := r.answers[key]
			err := s.CorrectReturn(ctx, r.id, person, key, was+"?", is, nil)
			require.ErrorIs(t, err, form.ErrClash, "it is not what it was")
			check := func(now map[string]string) (map[string]string, []byte, error) {
				r.digest, r.broken = fmt.Sprint(now), false
				return nil, []byte(r.digest), nil
			}
			require.NoError(t, s.CorrectReturn(ctx, r.id, person, key, was, is, check))
			if was != is || r.unsure && key == "vessel" {
				if r.state == "waiting" { // a person has looked at it
					r.state = "new"
				}
				r.unsure = r.unsure && key != "vessel"
			}
			r.answers[key] = is
			if is == "" {
				delete(r.answers, key)
			}
		case "state":
			state := pick("new", "checked", "refused", "done")
			require.NoError(t, s.SetReturnState(ctx, []int64{r.id}, person, state))
			r.state = state
		case "assign":
			r.assigned = []int64{0, person, other}[rng.IntN(3)]
			require.NoError(t, s.AssignReturn(ctx, r.id, person, r.assigned))
		case "delete":
			n, err := s.DeleteReturns(ctx, doc, []int64{r.id}, person, "asked for by the person")
			require.NoError(t, err)
			require.Equal(t, 1, n)
			all = slices.Delete(all, k, k+1)
		}
	}
	sums, err := s.SumReturns(ctx, doc, time.Now().Add(-time.Hour))
	require.NoError(t, err)
	assert.Equal(t, len(all), sums.All, "counted as they come and go")
	assert.Equal(t, len(all), sums.Today)
}

// What is done with a return stands beside it: who, when, what it was and what it is.
func TestWhatIsDoneWithAReturnIsKept(t *testing.T) {
	s, person, doc := office(t)
	id, err := s.Receive(ctx, store.Arrived{
		Target: store.Target{Document: doc}, Road: "button", Kind: "json", Bytes: []byte("{}"),
		Read: &store.Understood{Values: map[string]string{"vessel": "Petrel"}, Unsure: map[string]float64{"vessel": 0.5}},
	})
	require.NoError(t, err)
	fine := func(map[string]string) (map[string]string, []byte, error) { return nil, nil, nil }
	require.NoError(t, s.CorrectReturn(ctx, id, person, "vessel", "Petrel", "Petrel", fine), "it is right as it was read")
	require.NoError(t, s.CorrectReturn(ctx, id, person, "vessel", "Petrel", "Merlin", fine))
	require.NoError(t, s.CorrectReturn(ctx, id, person, "vessel", "Merlin", "Merlin", fine), "nothing is done, and nothing is kept of it")
	broken := errors.New("the rules could not be read")
	err = s.CorrectReturn(ctx, id, person, "vessel", "Merlin", "Curlew", func(map[string]string) (map[string]string, []byte, error) {
		return nil, nil, broken
	})
	require.ErrorIs(t, err, broken)
	require.NoError(t, s.SetReturnState(ctx, []int64{id}, person, "checked"))
	require.NoError(t, s.SetReturnState(ctx, []int64{id}, person, "checked"))
	require.NoError(t, s.AssignReturn(ctx, id, person, person))
	require.NoError(t, s.AssignReturn(ctx, id, person, person))
	require.NoError(t, s.NoteReturn(ctx, id, person, "  rang her up  "))
	assert.Error(t, s.NoteReturn(ctx, id, person, "  "))
	assert.Error(t, s.NoteReturn(ctx, id, person, strings.Repeat("x", 100_000)))
	assert.Error(t, s.SetReturnState(ctx, []int64{id}, person, "unread"), "no person sets that")
	assert.Error(t, s.CorrectReturn(ctx, id, person, "vessel", "Merlin", "a\x00b", fine))
	assert.ErrorIs(t, s.CorrectReturn(ctx, id+1, person, "vessel", "", "x", fine), store.ErrMissing)
	assert.ErrorIs(t, s.AssignReturn(ctx, id, person, person+99), store.ErrMissing)
	list, err := s.Changes(ctx, id)
	require.NoError(t, err)
	slices.Reverse(list)
	var said []string
	for _, c := range list {
		require.Equal(t, "Imke Maas", *c.Who)
		said = append(said, fmt.Sprintf("%s %s %q %q", c.What, c.Field, c.Was, c.Is))
	}
	assert.Equal(t, []string{
		`value vessel "Petrel" "Petrel"`, `value vessel "Petrel" "Merlin"`, `state  "new" "checked"`, `assigned  "" "Imke Maas"`,
		`note  "" "rang her up"`,
	}, said)
	r, err := s.Return(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, "Merlin", r.Answers()["vessel"])
	assert.Empty(t, r.Unsure())
}

// What is read of a return a second time, or too late, takes nothing from what is there; files that nothing else uses go with it.
func TestAReturnIsReadOnceAndGoesWithItsFiles(t *testing.T) {
	s, person, doc := office(t)
	var ids []int64
	for i := range 2 {
		id, err := s.Receive(ctx, store.Arrived{
			Target: store.Target{Document: doc}, Road: "file", Kind: "json", Bytes: []byte(`{"vessel":"Petrel"}`), Read: &store.Understood{
				Values: map[string]string{"vessel": "Petrel"}, Digest: []byte("same"), Copy: []byte("the filled form"),
				Files: []store.Enclosed{{Key: "picture", Name: "boat.png", Bytes: fmt.Append(nil, "picture ", i)}},
			},
		})
		require.NoError(t, err)
		ids = append(ids, id)
	}
	require.NoError(t, s.Understand(ctx, ids[0], store.Understood{Values: map[string]string{"vessel": "late"}}))
	require.NoError(t, s.FailReturn(ctx, ids[0], "", "late, too"))
	first, err := s.Return(ctx, ids[0])
	require.NoError(t, err)
	assert.Equal(t, "Petrel", first.Answers()["vessel"])
	assert.Empty(t, first.Problem)
	assert.Nil(t, first.DoubleOf)
	second, err := s.Return(ctx, ids[1])
	require.NoError(t, err)
	assert.Equal(t, &ids[0], second.DoubleOf)
	target := store.Target{Document: doc}
	paper, err := s.Receive(ctx, store.Arrived{Target: target, Road: "paper", Kind: "pdf", Bytes: []byte("paper")})
	require.NoError(t, err)
	web, err := s.Receive(ctx, store.Arrived{
		Target: target, Road: "web", Kind: "form", Bytes: []byte("a=b"), Read: &store.Understood{Digest: []byte("alike")},
	})
	require.NoError(t, err)
	require.NoError(t, s.Understand(ctx, paper, store.Understood{Digest: []byte("alike")}))
	late, err := s.Return(ctx, web)
	require.NoError(t, err)
	assert.Equal(t, &paper, late.DoubleOf, "the paper came first, and was read later")
	before, behind, err := s.Beside(ctx, doc, ids[0])
	require.NoError(t, err)
	assert.Equal(t, []int64{0, ids[1]}, []int64{before, behind})
	files, err := s.Attached(ctx, ids[0])
	require.NoError(t, err)
	require.Len(t, files, 1)
	assert.Equal(t, len("picture 0"), files[0].Size)

	_, err = s.DeleteReturns(ctx, doc, ids[:1], person, " ")
	require.ErrorIs(t, err, store.ErrNoReason)
	n, err := s.DeleteReturns(ctx, doc+1, ids[:1], person, "of another document")
	require.NoError(t, err)
	assert.Zero(t, n)
	n, err = s.DeleteReturns(ctx, doc, ids[:1], person, "asked for")
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	_, err = s.File(ctx, files[0].File)
	require.ErrorIs(t, err, store.ErrMissing, "its picture went with it")
	second, err = s.Return(ctx, ids[1])
	require.NoError(t, err)
	assert.Nil(t, second.DoubleOf, "it is the only one now")
	kept, err := s.File(ctx, second.File)
	require.NoError(t, err, "the other one came as the same bytes")
	assert.JSONEq(t, `{"vessel":"Petrel"}`, string(kept))
	_, err = s.File(ctx, *second.Copy)
	require.NoError(t, err)
}

// Answers of several lines count line by line; days without a return are among the days; numbers are those that are written as such.
func TestReturnsAreCounted(t *testing.T) {
	s, _, doc := office(t)
	// An hour is left out in the night before: 36 hours ago it was eleven in the evening, of the day before yesterday.
	now := time.Date(2026, 3, 29, 12, 0, 0, 0, mustZone(t, "Europe/Berlin"))
	for i, v := range []struct{ back, vessel, length string }{
		{"0h", "Petrel\nMerlin", "7"}, {"13h", "Petrel", "-2.5"}, {"36h", "Curlew", "seven"}, {"500h", "Petrel", "12"},
	} {
		back, err := time.ParseDuration(v.back)
		require.NoError(t, err)
		_, err = s.Receive(ctx, store.Arrived{
			Target: store.Target{Document: doc}, Road: "button", Kind: "json", Bytes: fmt.Append(nil, i), At: now.Add(-back),
			Read: &store.Understood{Values: map[string]string{"vessel": v.vessel, "length": v.length}},
		})
		require.NoError(t, err)
	}
	words, err := s.CountAnswers(ctx, doc, "vessel", 10)
	require.NoError(t, err)
	assert.Equal(t, []store.Count{{"Petrel", 3}, {"Curlew", 1}, {"Merlin", 1}}, words)
	numbers, err := s.Numbers(ctx, doc, "length", 10)
	require.NoError(t, err)
	assert.Equal(t, []float64{-2.5, 7, 12}, numbers)
	days, err := s.CountByDay(ctx, doc, 4, now)
	require.NoError(t, err)
	assert.Equal(t, []store.Count{{"2026-03-26", 0}, {"2026-03-27", 1}, {"2026-03-28", 1}, {"2026-03-29", 1}}, days)
	filled, all, err := s.CountFilled(ctx, doc, 3)
	require.NoError(t, err)
	assert.Equal(t, 3, all)
	assert.Equal(t, map[string]int{"vessel": 3, "length": 3}, filled)
}

func mustZone(t *testing.T, name string) *time.Location {
	t.Helper()
	z, err := time.LoadLocation(name)
	require.NoError(t, err)
	return z
}
