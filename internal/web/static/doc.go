// Package static is what browsers get as it is: styles, scripts, typefaces.
package static
