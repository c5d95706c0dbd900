// Package workroom is the home screen: every document, its stage, its snags, who touched it last.
package workroom
