// Package store keeps everything in PostgreSQL: accounts, files by their content,
// documents with their drafts, the journal of edits, and editions. The SQL stands
// beside the method that runs it.
package store
