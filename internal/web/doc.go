// Package web is the interface: routes, limits, and what every answer carries. The screens are rooms of
// their own, each with its handlers, views and templates; server.go leads to them. They stand in package
// frame, turn requests into commands through package ask, and make HTML outside templates through
// package markup only. Pages are rendered here; htmx swaps the parts that change, and small scripts do
// what needs a pointer. Everything that a page loads is embedded.
package web
