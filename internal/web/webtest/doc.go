// Package webtest opens a demo office for tests.
package webtest
