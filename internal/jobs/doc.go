// Package jobs runs the heavy work in the background, on a queue in PostgreSQL:
// bringing files in, and recognising text. A worker that is killed in mid-job loses
// nothing: the job runs again, and its outcome is written once.
package jobs
