// Package returns is what comes back of a form: answers, whatever road they took, as data.
//
// [Data] reads what needs no knowledge of PDF: form data, JSON, CSV and XFDF (ISO 19444-1). [Columns] lays the questions of all editions of
// a form side by side, so that a field that was renamed stays one column. [Match] tells to which edition answers belong, [Read] makes them
// answers of its fields, and holds them to its rules.
package returns
