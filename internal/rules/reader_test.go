package rules_test

import (
	"testing"

	"github.com/dop251/goja"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

// reader is a PDF reader's script engine with a form in it: what the widely implemented form
// functions do, written again for the tests, and the order of events of ISO 32000-2, 12.6.3:
// validate, then calculate in order, then format.
type reader struct {
	t      *testing.T
	vm     *goja.Runtime
	form   rules.Compiled
	values map[string]string
	told   []string
	state  map[string]map[string]any
}

const formFunctions = `
function AFMakeNumber(s) {
  if (typeof s === "number") { return s; }
  s = String(s).replace(/^\s+|\s+$/g, "").replace(",", ".");
  var n = parseFloat(s);
  return isNaN(n) || !isFinite(n) ? null : n;
}
function AFNumber_Keystroke() { }
function AFNumber_Format(dec, sep, neg, cur, money, before) {
  if (event.value === "") { return; }
  var v = AFMakeNumber(event.value);
  if (v === null) { event.value = ""; return; }
  var p = zm_fixed(Math.abs(v), dec).split("."), whole = p[0], group = sep === 0 ? "," : sep === 2 ? "." : "";
  if (group) { whole = whole.replace(/\B(?=(\d{3})+$)/g, group); }
  var out = whole + (p[1] ? (sep >= 2 ? "," : ".") + p[1] : "");
  out = before ? money + out : out + money;
  var minus = v < 0 && /[1-9]/.test(p.join(""));
  event.value = minus ? (neg >= 2 ? "(" + out + ")" : "-" + out) : out;
}
function AFDate_KeystrokeEx() { }
function AFDate_FormatEx(p) {
  if (event.value === "") { return; }
  var d = zm_read(event.value, p);
  event.value = d ? zm_date(d, p) : "today";
}`

func openReader(t *testing.T, fields []form.Field) *reader {
	t.Helper()
	c, err := rules.CompileForm(fields)
	require.NoError(t, err)
	r := &reader{t: t, vm: goja.New(), form: c, values: map[string]string{}, state: map[string]map[string]any{}}
	app := r.vm.NewObject()
	require.NoError(t, app.Set("alert", func(s string) { r.told = append(r.told, s) }))
	require.NoError(t, r.vm.Set("app", app))
	for _, f := range fields {
		if f.Default != "" {
			r.values[f.Name] = f.Default
		}
	}
	require.NoError(t, r.vm.GlobalObject().Set("getField", func(name string) goja.Value {
		o := r.vm.NewObject()
		if r.state[name] == nil {
			r.state[name] = map[string]any{"display": 0, "required": false}
		}
		get := func(f func() any) goja.Value { return r.vm.ToValue(func() any { return f() }) }
		require.NoError(t, o.DefineAccessorProperty("valueAsString", get(func() any { return r.values[name] }), nil, goja.FLAG_FALSE,
			goja.FLAG_TRUE))
		for _, key := range []string{"display", "required"} {
			require.NoError(t, o.DefineAccessorProperty(key, get(func() any { return r.state[name][key] }),
				r.vm.ToValue(func(v any) { r.state[name][key] = v }), goja.FLAG_FALSE, goja.FLAG_TRUE))
		}
		return o
	}))
	_, err = r.vm.RunString(rules.Prelude() + formFunctions)
	require.NoError(t, err)
	r.calculate()
	return r
}

// event runs a script of a field, and gives its event's value and whether it was allowed.
func (r *reader) event(name, trigger, value string) (string, bool) {
	r.t.Helper()
	js := r.form.Fields[name][trigger]
	if js == "" {
		return value, true
	}
	e := r.vm.NewObject()
	require.NoError(r.t, e.Set("value", value))
	require.NoError(r.t, e.Set("rc", true))
	target := r.vm.NewObject()
	require.NoError(r.t, target.Set("value", r.values[name]))
	require.NoError(r.t, e.Set("target", target))
	require.NoError(r.t, e.Set("willCommit", true))
	require.NoError(r.t, r.vm.Set("event", e))
	_, err := r.vm.RunString("(function () {" + js + "})()")
	require.NoError(r.t, err, js)
	return e.Get("value").String(), e.Get("rc").ToBoolean()
}

func (r *reader) calculate() {
	for _, name := range r.form.Order {
		r.values[name], _ = r.event(name, "C", r.values[name])
	}
}

// set types an answer and leaves the field; an answer that is refused is not kept.
func (r *reader) set(name, value string) bool {
	if value != "" {
		kept, ok := r.event(name, "V", value)
		if !ok {
			return false
		}
		value = kept // a validation may change it (ISO 21757-1, Event.value)
	}
	r.values[name] = value
	r.calculate()
	return true
}

// shown is what the field shows.
func (r *reader) shown(name string) string {
	s, _ := r.event(name, "F", r.values[name])
	return s
}
