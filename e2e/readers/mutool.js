// Fills a form in with mutool: one question a line, in JSON, one answer a line.
var doc = new PDFDocument(scriptArgs[0]);
var said = [];
doc.enableJS();
doc.setJSEventListener({ onAlert: function (m) { said.push(String(m && m.message || m)); return 1; } });
var kinds = { text: "text", checkbox: "checkbox", radiobutton: "radio", combobox: "choice", listbox: "choice", signature: "signature", button: "button" };
var page; // kept: its widgets end with it
function widgets() { page = doc.loadPage(0); return page.getWidgets(); }
function find(q) {
	var all = widgets(), n = 0;
	for (var i = 0; i < all.length; i++) if (all[i].getLabel() === q.field && n++ === (q.nth || 0)) return all[i];
	throw new Error("there is no " + q.field);
}
function done(w) { w.update(); page.update(); return {}; }
function rect(w) { var r = w.getRect(); return [r[0], 1000 - r[3], r[2], 1000 - r[1]]; }
var can = {
	told: function () {
		var all = widgets(), out = {};
		for (var i = 0; i < all.length; i++) {
			var w = all[i], f = w.getFieldFlags(), k = kinds[w.getFieldType()];
			var t = { Kind: k, Tooltip: w.getLabel(), Rect: rect(w), Required: !!(f & 2), ReadOnly: !!(f & 1) };
			if (k === "text") { t.Value = w.getValue(); t.MaxLen = w.getMaxLen(); t.Multiline = !!(f & 4096); t.Password = !!(f & 8192); t.NoSpell = !!(f & 4194304); t.Comb = !!(f & 16777216); }
			out[t.Tooltip] = t;
		}
		return { Told: out };
	},
	write: function (q) {
		var w = find(q);
		if (w.isReadOnly()) return {};
		var most = w.getFieldType() === "text" ? w.getMaxLen() : 0; // who types cannot type more
		w.setTextValue(most > 0 ? q.text.substring(0, most) : q.text);
		return done(w);
	},
	press: function (q) {
		var w = find(q), k = w.getFieldType();
		w.eventEnter(); w.eventDown(); w.eventFocus(); w.eventUp();
		if (k === "checkbox" || k === "radiobutton") w.toggle();
		w.eventBlur(); w.eventExit();
		return done(w);
	},
	choose: function (q) {
		if (q.list.length > 1) return { Cannot: "one" };
		var w = find(q);
		w.setChoiceValue(q.list[0]);
		return done(w);
	},
	events: function (q) {
		var w = find(q);
		for (var i = 0; i < q.what.length; i++) w["event" + q.what[i]]();
		return done(w);
	},
	messages: function () { return { List: said }; },
	save: function (q) { doc.save(q.file, ""); return {}; },
};
for (;;) {
	var line;
	try { line = readline(); } catch (e) { break; }
	if (line === null || line === undefined) break;
	var q = JSON.parse(line), a;
	try { a = can[q.do] ? can[q.do](q) : { Cannot: q.do }; } catch (e) { a = { Error: q.do + " " + q.field + ": " + e }; }
	print("= " + JSON.stringify(a));
}
