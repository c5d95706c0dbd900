package returns_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"mime/multipart"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/returns"
)

// some are answers of every sort under names of every sort.
func some(rng *rand.Rand) map[string]string {
	signs := []rune(`ab ,;"'&<>=%+\/{}[]()|` + "\n\tÄßŁЖ日🙂’")
	text := func(n int) string {
		var s []rune
		for range n {
			s = append(s, signs[rng.IntN(len(signs))])
		}
		return string(s)
	}
	out := map[string]string{}
	for i := range 2 + rng.IntN(8) {
		out[fmt.Sprintf("field_%d", i)] = "x" + text(rng.IntN(14))
	}
	return out
}

// flat are answers with those that came several times joined.
func flat(c returns.Came) map[string]string {
	out := map[string]string{}
	for k, v := range c.Named {
		out[k] = strings.Join(v, "|")
	}
	return out
}

// Answers come back as they were by every road, each written by a package that knows nothing of how it is read.
func TestAnswersComeBackByEveryRoad(t *testing.T) {
	rng := rand.New(rand.NewPCG(rand.Uint64(), 6))
	for range 200 {
		want := some(rng)
		written := map[string][]byte{}
		values := url.Values{}
		var parts, table bytes.Buffer
		w := multipart.NewWriter(&parts)
		var head, row []string
		for k, v := range want {
			values.Set(k, v)
			require.NoError(t, w.WriteField(k, v))
			head, row = append(head, k), append(row, v)
		}
		require.NoError(t, w.Close())
		rows := csv.NewWriter(&table)
		require.NoError(t, rows.WriteAll([][]string{head, row}))
		var err error
		written["json"], err = json.Marshal(want)
		require.NoError(t, err)
		written["xfdf"], err = returns.WriteXFDF("berth.pdf", want, nil)
		require.NoError(t, err)
		written["url"], written["parts"], written["csv"] = []byte(values.Encode()), parts.Bytes(), table.Bytes()
		for road, b := range written {
			all, err := returns.Data(returns.KindOf(b), b)
			require.NoError(t, err, "%s\n%s", road, b)
			require.Len(t, all, 1, road)
			require.Equal(t, want, flat(all[0].Legible()), "%s\n%s", road, b)
		}
	}
}

// XFDF that is written is well formed to libxml2, where it is there.
func TestXFDFIsWellFormedToAnotherReader(t *testing.T) {
	python, err := exec.LookPath("python3")
	if err != nil {
		t.Skip("there is no other reader of XML here")
	}
	want := some(rand.New(rand.NewPCG(rand.Uint64(), 7)))
	b, err := returns.WriteXFDF("berth & co.pdf", want, nil)
	require.NoError(t, err)
	name := filepath.Join(t.TempDir(), "a.xfdf")
	require.NoError(t, os.WriteFile(name, b, 0o600))
	out, err := exec.Command(python, "-c", `import sys, json, xml.etree.ElementTree as t
n = '{http://ns.adobe.com/xfdf/}'
print(json.dumps({f.get('name'): f.find(n + 'value').text for f in t.parse(sys.argv[1]).getroot().find(n + 'fields')}))`, name).Output()
	require.NoError(t, err)
	var got map[string]string
	require.NoError(t, json.Unmarshal(out, &got))
	assert.Equal(t, want, got)
}

// Objects within objects are nested fields; lists are several values; what cannot be an answer is said.
func TestJSONOfEveryShape(t *testing.T) {
	all, err := returns.Data(returns.JSON, []byte("\xef\xbb\xbf"+`{"owner": {"name": "Bo", "address": {"town": "Marl"}},
		"extras": ["water", "power", 3], "length": 9.40, "keel": true, "sail": false, "none": null}`))
	require.NoError(t, err)
	assert.Equal(t, map[string]string{
		"owner.name": "Bo", "owner.address.town": "Marl", "extras": "water|power|3", "length": "9.40", "keel": "true", "sail": "",
		"none": "",
	}, flat(all[0]))
	several := `[{"answers": {"a": 1}, "sent": "now"}, {"fields": {"a": 2}}, {"a": 12345678901234567890}]`
	all, err = returns.Data(returns.JSON, []byte(several))
	require.NoError(t, err)
	var got []string
	for _, c := range all {
		got = append(got, flat(c)["a"])
	}
	assert.Equal(t, []string{"1", "2", "12345678901234567890"}, got, "figures stay as they were written")
	for _, bad := range []string{"", "{", "3", `["a"]`, "[]", strings.Repeat(`{"a":`, 80) + "1" + strings.Repeat("}", 80)} {
		_, err := returns.Data(returns.JSON, []byte(bad))
		assert.ErrorContains(t, err, "the JSON", bad)
	}
}

// The digest is the same for the same answers, and for no others.
func TestTheDigestKnowsDoubles(t *testing.T) {
	rng := rand.New(rand.NewPCG(rand.Uint64(), 8))
	seen := map[string]map[string]string{}
	for range 500 {
		a := some(rng)
		d := string(returns.Digest(a))
		b := maps.Clone(a)
		b["left empty"] = ""
		require.Equal(t, d, string(returns.Digest(b)), "what is empty says nothing")
		if was, there := seen[d]; there {
			require.Equal(t, was, a)
		}
		seen[d] = a
		b["field_0"] += "."
		require.NotEqual(t, d, string(returns.Digest(b)))
	}
	assert.NotEqual(t, returns.Digest(map[string]string{"a": "1=b", "c": "2"}), returns.Digest(map[string]string{"a": "1", "b=c": "2"}))
}

func TestNamesOfFilesAreFitToBeKept(t *testing.T) {
	for name, want := range map[string]string{
		"boat.png": "boat.png", "../../etc/passwd": "passwd", `C:\forms\berth.pdf`: "berth.pdf", "a\x00b\nc.pdf": "abc.pdf", "": "a file",
		"/": "a file", "  ": "a file", "Boot \xe4.pdf": "Boot ä.pdf", strings.Repeat("é", 300) + ".pdf": strings.Repeat("é", 116) + ".pdf",
	} {
		assert.Equal(t, want, returns.FileName(name), "%q", name)
	}
}
