package standin

import (
	"encoding/binary"
	"hash/crc32"
	"math"
)

// withResolution puts a pHYs chunk after the header of a PNG: pixels per metre.
func withResolution(b []byte, dpi float64) []byte {
	const header = 8 + 4 + 4 + 13 + 4 // signature, IHDR
	if len(b) < header {
		return b
	}
	per := uint32(math.Round(dpi / 0.0254))
	data := []byte("pHYs")
	data = binary.BigEndian.AppendUint32(data, per)
	data = binary.BigEndian.AppendUint32(data, per)
	data = append(data, 1)
	var out []byte
	out = append(out, b[:header]...)
	out = binary.BigEndian.AppendUint32(out, uint32(len(data)-4))
	out = append(out, data...)
	out = binary.BigEndian.AppendUint32(out, crc32.ChecksumIEEE(data))
	return append(out, b[header:]...)
}
