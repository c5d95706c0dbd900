// Package sign signs forms with certificates, and checks signed files.
//
// A signature is one of PAdES level B-B (ETSI EN 319 142-1), or B-T with a time stamp (RFC 3161): a detached CMS structure (RFC 5652) over
// all of the file but itself, in the place that [Sign] leaves for it. It is written as an update behind what is there, so signatures that
// the file has already go on to hold. [Check] reads with a library that shares no code with what signs, and says in sentences who signed
// what, when, and whether it still holds.
package sign
