// Package storetest gives tests databases of their own.
package storetest
