// Package post sends messages by SMTP (RFC 5321), in the form of RFC 5322: to the server that an office has, or to the shipped stand-in.
package post
