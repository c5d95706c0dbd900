package intake

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"
)

// MaxTable is how large a table may be, in bytes.
const MaxTable = 20 << 20

// Why a table cannot be read.
var (
	ErrTable      = errors.New("this is no table: bring a CSV file, or an XLSX workbook whose first sheet is the table")
	ErrLargeTable = fmt.Errorf("this table is larger than %d MB: split it", MaxTable>>20)
)

// Table reads the rows of a CSV file (RFC 4180; with commas, semicolons or tabs between the cells) or of the first sheet of an XLSX
// workbook (ISO/IEC 29500-1). Days come as in ISO 8601.
func Table(b []byte) ([][]string, error) {
	switch {
	case len(b) > MaxTable:
		return nil, ErrLargeTable
	case bytes.HasPrefix(b, []byte("PK\x03\x04")):
		return workbook(b)
	case bytes.IndexByte(b, 0) >= 0:
		return nil, ErrTable
	}
	return commas(b)
}

func commas(b []byte) ([][]string, error) {
	b = bytes.TrimPrefix(b, []byte("\xef\xbb\xbf"))
	if !utf8.Valid(b) { // as older programs write it (common practice, no source)
		var err error
		if b, err = charmap.Windows1252.NewDecoder().Bytes(b); err != nil {
			return nil, ErrTable
		}
	}
	first, _, _ := bytes.Cut(b, []byte("\n"))
	r := csv.NewReader(bytes.NewReader(b))
	r.FieldsPerRecord = -1
	r.Comma = slices.MaxFunc([]rune{',', ';', '\t'}, func(a, b rune) int {
		return bytes.Count(first, []byte(string(a))) - bytes.Count(first, []byte(string(b)))
	})
	rows, err := r.ReadAll()
	var at *csv.ParseError
	if errors.As(err, &at) {
		return nil, fmt.Errorf("the table cannot be read in line %d: %w; mend the quotes there", at.Line, at.Err)
	}
	return rows, err
}

func workbook(b []byte) (rows [][]string, err error) {
	defer func() {
		if r := recover(); r != nil { // a damaged workbook
			rows, err = nil, ErrTable
		}
	}()
	o := excelize.Options{UnzipSizeLimit: 200 << 20, UnzipXMLSizeLimit: 20 << 20, RawCellValue: true}
	f, err := excelize.OpenReader(bytes.NewReader(b), o)
	if err != nil {
		return nil, fmt.Errorf("%w (%v)", ErrTable, err)
	}
	defer f.Close()
	sheet := f.GetSheetName(0)
	if rows, err = f.GetRows(sheet); err != nil {
		return nil, fmt.Errorf("%w (%v)", ErrTable, err)
	}
	days := map[int]bool{} // styles that show a number as a day
	for i, row := range rows {
		for j, v := range row {
			n, err := strconv.ParseFloat(v, 64)
			if err != nil {
				continue
			}
			cell, err := excelize.CoordinatesToCellName(j+1, i+1)
			if err != nil {
				return nil, ErrTable
			}
			style, err := f.GetCellStyle(sheet, cell)
			if err != nil {
				continue
			}
			day, known := days[style]
			if !known {
				day = showsDay(f, style)
				days[style] = day
			}
			if t, err := excelize.ExcelDateToTime(n, false); day && err == nil {
				if row[j] = t.Format(time.DateOnly); n != math.Trunc(n) {
					row[j] = t.Format("2006-01-02 15:04")
				}
			}
		}
	}
	return rows, nil
}

// showsDay tells whether a style shows a number as a day: by one of the formats that every workbook has, or by one of its own
// (ISO/IEC 29500-1, 18.8.30).
func showsDay(f *excelize.File, style int) bool {
	s, err := f.GetStyle(style)
	if err != nil || s == nil {
		return false
	}
	if s.CustomNumFmt != nil {
		format := strings.ToLower(*s.CustomNumFmt)
		return strings.Contains(format, "y") && strings.ContainsAny(format, "dm")
	}
	return s.NumFmt >= 14 && s.NumFmt <= 17 || s.NumFmt == 22 || s.NumFmt >= 27 && s.NumFmt <= 36 || s.NumFmt >= 50 && s.NumFmt <= 58
}
