// Package pdftest makes files for tests that only other programs make: signed ones.
package pdftest
