// What the formulas of this form need. Numbers keep 15 significant figures at every step,
// so that 0.1 + 0.2 is 0.3; a blank is null; a date is {day: days since 1 January 1970}, and zm_noDay when it is blank.
var zm_noDay = { none: true };
function zm_tidy(x) { if (!isFinite(x)) { throw "large"; } return Number(x.toPrecision(15)) + 0; }
function zm_blank(v) { return v === null || v === undefined || v === "" || v === zm_noDay; }
function zm_trim(s) { return String(s).replace(/^\s+|\s+$/g, ""); }
function zm_isDay(v) { return v !== null && typeof v === "object" && v !== zm_noDay; }
function zm_isNum(v) {
  if (zm_isDay(v)) { return false; }
  if (zm_blank(v)) { return true; }
  return typeof v !== "string" || zm_trim(v) === "" || /^[-+]?(\d+\.?\d*|\.\d+)$/.test(zm_trim(v));
}
function zm_num(v) {
  if (!zm_isNum(v)) { throw "number"; }
  if (typeof v === "string") { v = zm_trim(v); }
  return zm_blank(v) ? null : Number(v);
}
function zm_plain(x) {
  var s = String(x), m = /^(-?)(\d+)(?:\.(\d+))?e([-+]\d+)$/.exec(s);
  if (!m) { return s; }
  var whole = m[2], frac = m[3] || "", e = Number(m[4]);
  for (; e > 0; e--) { whole += frac.charAt(0) || "0"; frac = frac.substring(1); }
  for (; e < 0; e++) { frac = (whole.charAt(whole.length - 1) || "0") + frac; whole = whole.substring(0, whole.length - 1) || "0"; }
  return m[1] + whole + (frac ? "." + frac : "");
}
function zm_pad(n, k) { var s = String(n); while (s.length < k) { s = "0" + s; } return s; }
function zm_text(v) {
  if (typeof v === "number") { return zm_plain(v); }
  if (typeof v === "boolean") { return v ? "yes" : "no"; }
  if (zm_isDay(v)) { return zm_date(v, "yyyy-mm-dd"); }
  return zm_blank(v) ? "" : String(v);
}
function zm_true(v) { return zm_isDay(v) || !(zm_blank(v) || v === false || v === 0); }
function zm_shift(x, n) {
  var p = String(x).split("e");
  return Number(p[0] + "e" + (Number(p[1] || 0) + n));
}
function zm_round(x, n, even) {
  var s = zm_shift(Math.abs(x), n), whole = Math.floor(s), rest = s - whole;
  if (rest > 0.5 || (rest === 0.5 && (!even || whole % 2 === 1))) { whole++; }
  whole = zm_shift(whole, -n);
  return (x < 0 ? -whole : whole) + 0;
}
function zm_fixed(x, n) {
  var r = zm_round(x, n, false), p = zm_plain(Math.abs(r)).split("."), frac = p[1] || "";
  while (frac.length < n) { frac += "0"; }
  return (r < 0 ? "-" : "") + p[0] + (n > 0 ? "." + frac.substring(0, n) : "");
}
function zm_neg(v) { v = zm_num(v); return v === null ? null : -v + 0; }
function zm_sinceNoDay(op, b) {
  if ((op !== "+" && op !== "-") || zm_isDay(b) || b === zm_noDay) { return null; }
  if (!zm_isNum(b)) { throw "date"; }
  return zm_noDay;
}
function zm_op(op, a, b) {
  if (zm_isDay(a) || (zm_isDay(b) && op === "+")) {
    if (!zm_isDay(a)) { var c = a; a = b; b = c; }
    if (b === zm_noDay) { return null; }
    if (zm_blank(b)) { return zm_noDay; }
    if (zm_isDay(b)) { if (op !== "-") { throw "date"; } return a.day - b.day; }
    b = zm_num(b);
    if (b === null || (op !== "+" && op !== "-")) { throw "date"; }
    return { day: a.day + Math.floor(op === "-" ? -b : b) };
  }
  if (a === zm_noDay || (b === zm_noDay && op === "+")) { return zm_sinceNoDay(op, a === zm_noDay ? b : a); }
  if (b === zm_noDay || (zm_isDay(b) && op === "-" && zm_blank(a))) { return null; }
  var x = zm_num(a), y = zm_num(b);
  if (x === null || y === null) {
    if ((op !== "+" && op !== "-") || (x === null && y === null)) { return null; }
    x = x || 0;
    y = y || 0;
  }
  if ((op === "/" && y === 0) || (op === "^" && x === 0 && y < 0)) { throw "division"; }
  return zm_tidy(op === "+" ? x + y : op === "-" ? x - y : op === "*" ? x * y : op === "/" ? x / y : Math.pow(x, y));
}
function zm_cmp(op, a, b) {
  var c;
  if (zm_blank(a) || zm_blank(b)) { c = zm_blank(a) && zm_blank(b); return op === "=" ? c : op === "<>" ? !c : false; }
  if (zm_isDay(a) && zm_isDay(b)) { c = a.day - b.day; }
  else if (typeof a === "boolean" || typeof b === "boolean") { c = zm_true(a) === zm_true(b) ? 0 : 1; }
  else if (zm_isNum(a) && zm_isNum(b)) { a = zm_num(a) || 0; b = zm_num(b) || 0; c = a < b ? -1 : a > b ? 1 : 0; }
  else { a = zm_text(a); b = zm_text(b); c = a < b ? -1 : a > b ? 1 : 0; }
  return op === "=" ? c === 0 : op === "<>" ? c !== 0 : op === "<" ? c < 0 : op === "<=" ? c <= 0 : op === ">" ? c > 0 : c >= 0;
}
function zm_gather(what, args) {
  var total = 0, best = 0, n = 0, dates = 0, noDays = args.length > 0, i, v;
  for (i = 0; i < args.length; i++) {
    v = args[i];
    noDays = noDays && v === zm_noDay;
    if (zm_isDay(v)) { dates++; v = v.day; } else { v = zm_num(v); }
    if (v === null) { continue; }
    if (n === 0 || (what === "min" && v < best) || (what === "max" && v > best)) { best = v; }
    n++;
    total = zm_tidy(total + v);
  }
  if (dates > 0 && (dates < n || what === "sum" || what === "average")) { throw "number"; }
  if (n === 0) { return noDays ? zm_noDay : null; }
  if (what === "sum") { return total; }
  if (what === "average") { return zm_tidy(total / n); }
  return dates > 0 ? { day: best } : best;
}
function zm_count(args) { var n = 0, i; for (i = 0; i < args.length; i++) { if (!zm_blank(args[i])) { n++; } } return n; }
function zm_days(a, b) {
  if (zm_blank(a) || zm_blank(b)) { return null; }
  if (!zm_isDay(a) || !zm_isDay(b)) { throw "date"; }
  return b.day - a.day;
}
function zm_make(y, m, d) {
  y = zm_num(y);
  m = zm_num(m);
  d = zm_num(d);
  if (y === null || m === null || d === null) { return zm_noDay; }
  var t = zm_read(zm_pad(Math.floor(y), 4) + "-" + Math.floor(m) + "-" + Math.floor(d), "yyyy-mm-dd");
  if (t === null) { throw "date"; }
  return t;
}
function zm_places(v) { v = zm_num(v); return v === null ? 0 : Math.max(-9, Math.min(9, Math.floor(v))); }
function zm_fun(f, a, places, how) {
  var x = zm_isNum(a) ? zm_num(a) : null;
  if (f === "text" && x === null) { return zm_text(a); }
  x = zm_num(a);
  if (x === null) { return null; }
  if (f === "round") { return zm_tidy(zm_round(x, zm_places(places), zm_text(how) === "even")); }
  if (f === "text") { return places === undefined ? zm_plain(x) : zm_fixed(x, Math.max(0, zm_places(places))); }
  return f === "floor" ? Math.floor(x) + 0 : f === "ceil" ? Math.ceil(x) + 0 : f === "abs" ? Math.abs(x) : x;
}
function zm_today() { var d = new Date(); return { day: Math.round(Date.UTC(d.getFullYear(), d.getMonth(), d.getDate()) / 86400000) }; }
function zm_date(d, pattern) {
  var t = new Date(d.day * 86400000), months = ["January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December"];
  return pattern.replace(/d+|m+|y+/g, function (p) {
    if (p === "dd") { return zm_pad(t.getUTCDate(), 2); }
    if (p === "d") { return t.getUTCDate(); }
    if (p === "mm") { return zm_pad(t.getUTCMonth() + 1, 2); }
    if (p === "m") { return t.getUTCMonth() + 1; }
    if (p === "mmm") { return months[t.getUTCMonth()].substring(0, 3); }
    if (p === "mmmm") { return months[t.getUTCMonth()]; }
    return p === "yy" ? zm_pad(t.getUTCFullYear() % 100, 2) : zm_pad(t.getUTCFullYear(), 4);
  });
}
// zm_read takes a date to pieces, written in its pattern or as a calendar gives it: null when it is none.
function zm_read(s, pattern) {
  var iso = /yyyy/.test(pattern) ? /^\s*\d{4}-\d\d-\d\d\s*$/ : /^\s*(19[5-9]\d|20[0-4]\d)-\d\d-\d\d\s*$/;
  if (iso.test(s)) { pattern = "yyyy-mm-dd"; }
  var want = pattern.split(/[-.\/ ,]+/), got = zm_trim(s).split(/[-.\/ ,]+/), i, d = 0, m = 0, y = 0, w, g;
  var months = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];
  var names = ["january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november", "december"];
  if (want.length !== 3 || got.length !== 3) { return null; }
  for (i = 0; i < 3; i++) {
    w = want[i];
    g = got[i];
    if (w.length > 2 && w.charAt(0) === "m" && !/^\d+$/.test(g)) {
      g = g.toLowerCase();
      for (m = 12; m > 0 && g !== months[m - 1] && g !== names[m - 1]; m--) { }
      if (m === 0) { return null; }
      continue;
    }
    if (!/^\d+$/.test(g)) { return null; }
    if (w.charAt(0) === "y") {
      if (g.length !== w.length) { return null; }
      y = Number(g);
      if (w === "yy") { y += y < 50 ? 2000 : 1900; }
    } else if (g.length > 2) { return null; }
    else if (w.charAt(0) === "d") { d = Number(g); }
    else { m = Number(g); }
  }
  var last = [31, (y % 4 === 0 && y % 100 !== 0) || y % 400 === 0 ? 29 : 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];
  if (y < 1 || m < 1 || m > 12 || d < 1 || d > last[m - 1]) { return null; }
  var t = new Date(0);
  t.setUTCFullYear(y, m - 1, d);
  return { day: Math.round(t.getTime() / 86400000) };
}
// zm_parse reads a number as it is written: with a comma for the point or a point, grouped or not,
// with its sign of money. It gives back a text for what is no number.
function zm_parse(s, comma, money) {
  var t = zm_trim(s), minus = false, m;
  if (money) { t = zm_trim(t.replace(money, "")); }
  m = /^\((.*)\)$/.exec(t);
  if (m) { minus = true; t = zm_trim(m[1]); }
  m = /^([-+])\s*(.*)$/.exec(t);
  if (m) { if (minus) { return s; } minus = m[1] === "-"; t = m[2]; }
  if (money) { t = zm_trim(t.replace(money, "")); }
  if (comma && (t.indexOf(",") >= 0 || !/^\d*\.\d*$/.test(t) || /^\d{1,3}\.\d{3}$/.test(t))) {
    if (!/^(\d+|\d{1,3}(\.\d{3})+)?(,\d*)?$/.test(t)) { return s; }
    t = t.replace(/\./g, "").replace(",", ".");
  } else if (/^\d*,\d*$/.test(t) && !/^\d{1,3},\d{3}$/.test(t)) {
    t = t.replace(",", ".");
  } else {
    if (!/^(\d+|\d{1,3}(,\d{3})+)?(\.\d*)?$/.test(t)) { return s; }
    t = t.replace(/,/g, "");
  }
  if (!/\d/.test(t)) { return s; }
  return Number((minus ? "-" : "") + t) + 0;
}
var zm_self = null; // the field that is being left, whose answer is not kept yet
function zm_raw(name) {
  if (zm_self && zm_self.name === name) { return String(zm_self.value); }
  var f = zm_doc.getField(name), v;
  if (!f) { return ""; }
  v = f.valueAsString;
  if (v === undefined || v === null) { v = f.value; }
  v = v === undefined || v === null ? "" : String(v);
  return v === "Off" ? "" : v;
}
function zm_t(name) { return zm_raw(name); }
function zm_n(name, comma, money, per) {
  var s = zm_raw(name), v;
  if (zm_trim(s) === "") { return null; }
  v = zm_parse(s, comma, money);
  return typeof v === "number" && per ? zm_tidy(v / 100) : v;
}
function zm_d(name, pattern) {
  var s = zm_raw(name);
  if (zm_trim(s) === "") { return zm_noDay; }
  return zm_read(s, pattern) || s;
}
// zm_out writes what a formula came to as its field takes it.
function zm_out(v, kind, a, b) {
  if (zm_blank(v)) { return ""; }
  if (kind === "number" && typeof v === "number") { v = zm_fixed(v, a); return b ? v.replace(".", ",") : v; }
  if (kind === "date" && zm_isDay(v)) { return zm_date(v, a); }
  return zm_text(v);
}
function zm_luhn(s) {
  var sum = 0, n = 0, i, c, v;
  for (i = s.length - 1; i >= 0; i--) {
    c = s.charAt(i);
    if (c === " " || c === "-") { continue; }
    if (c < "0" || c > "9") { return false; }
    v = Number(c);
    if (n % 2 === 1) { v *= 2; if (v > 9) { v -= 9; } }
    sum += v;
    n++;
  }
  return n > 1 && sum % 10 === 0;
}
function zm_iban(s) {
  s = s.replace(/ /g, "").toUpperCase();
  if (!/^[A-Z]{2}\d{2}[A-Z0-9]{11,30}$/.test(s)) { return false; }
  var rest = 0, i, c, t = s.substring(4) + s.substring(0, 4);
  for (i = 0; i < t.length; i++) {
    c = t.charCodeAt(i);
    rest = c >= 65 ? (rest * 100 + c - 55) % 97 : (rest * 10 + c - 48) % 97;
  }
  return rest === 1;
}
function zm_has(list, s) { for (var i = 0; i < list.length; i++) { if (list[i] === s) { return true; } } return false; }
// zm_react shows a field or hides it, and says whether it must be filled in.
function zm_react(name, shown, display, must) {
  var f = zm_doc.getField(name);
  if (!f) { return; }
  var to = shown ? display : 1;
  if (f.display !== to) { f.display = to; }
  must = must && shown;
  if (f.required !== must) { f.required = must; }
}
function zm_holds(f) { try { return zm_true(f()); } catch (e) { return false; } }
