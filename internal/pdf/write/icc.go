package write

import (
	"bytes"
	"encoding/binary"
	"math"
)

// sRGB is a colour profile for the colours of IEC 61966-2-1, of version 2 (ICC.1:2001-04): three primaries as they look under D50 (by the
// Bradford transform; annex E), and the curve of the standard in 1024 steps (5.2: linear up to 0.04045, a power of 2.4 above).
func sRGB() []byte {
	curve := make([]uint16, 1024)
	for i := range curve {
		v := float64(i) / float64(len(curve)-1)
		if v <= 0.04045 {
			v /= 12.92
		} else {
			v = math.Pow((v+0.055)/1.055, 2.4)
		}
		curve[i] = uint16(math.Round(v * 65535))
	}
	const name = "sRGB IEC61966-2.1"
	type tag struct {
		sign string
		data []byte
	}
	put := func(sort string, parts ...any) []byte {
		var b bytes.Buffer
		b.WriteString(sort)
		b.Write(make([]byte, 4))
		for _, p := range parts {
			_ = binary.Write(&b, binary.BigEndian, p) // a buffer takes everything
		}
		return b.Bytes()
	}
	fixed := func(v ...float64) []int32 { // s15Fixed16Number (5.3.2 of the version)
		var out []int32
		for _, v := range v {
			out = append(out, int32(math.Round(v*65536)))
		}
		return out
	}
	white := []float64{0.9642, 1, 0.8249} // D50
	trc := put("curv", uint32(len(curve)), curve)
	tags := []tag{
		{"desc", put("desc", uint32(len(name)+1), []byte(name+"\x00"), make([]byte, 4+4+2+1+67))},
		{"cprt", put("text", []byte("Free to use.\x00"))},
		{"wtpt", put("XYZ ", fixed(white...))},
		{"rXYZ", put("XYZ ", fixed(0.4360747, 0.2225045, 0.0139322))},
		{"gXYZ", put("XYZ ", fixed(0.3850649, 0.7168786, 0.0971045))},
		{"bXYZ", put("XYZ ", fixed(0.1430804, 0.0606169, 0.7141733))},
		{"rTRC", trc},
		{"gTRC", trc},
		{"bTRC", trc},
	}
	head := make([]byte, 128)
	copy(head[12:], "mntrRGB XYZ ")
	head[8], head[9] = 2, 0x40
	binary.BigEndian.PutUint16(head[24:], 2026)
	head[27], head[29] = 1, 1
	copy(head[36:], "acsp")
	for i, v := range fixed(white...) {
		binary.BigEndian.PutUint32(head[68+4*i:], uint32(v))
	}
	table := binary.BigEndian.AppendUint32(nil, uint32(len(tags)))
	var data []byte
	at := len(head) + 4 + 12*len(tags)
	places := map[string]int{} // the three curves are one
	for _, t := range tags {
		where, had := places[string(t.data)]
		if !had {
			where = at + len(data)
			places[string(t.data)] = where
			data = append(data, t.data...)
			for len(data)%4 != 0 {
				data = append(data, 0)
			}
		}
		table = append(table, t.sign...)
		table = binary.BigEndian.AppendUint32(table, uint32(where))
		table = binary.BigEndian.AppendUint32(table, uint32(len(t.data)))
	}
	out := append(append(head, table...), data...)
	binary.BigEndian.PutUint32(out, uint32(len(out)))
	return out
}
