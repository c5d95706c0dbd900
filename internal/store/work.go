package store

import (
	"context"
	"time"

	"github.com/jmoiron/sqlx"
)

// Alive says that a process that works is there; ids are those of the queue.
func (s *Store) Alive(ctx context.Context, worker string) error {
	_, err := s.db.ExecContext(ctx, `insert into workers (id) values ($1) on conflict (id) do update set seen = now()`, worker)
	return err
}

// Left says that a process works no more.
func (s *Store) Left(ctx context.Context, worker string) error {
	_, err := s.db.ExecContext(ctx, `delete from workers where id = $1`, worker)
	return err
}

// GiveBack puts the jobs of processes that have said nothing for so long back on the queue, as if they had not been begun, and tells how
// many there were.
func (s *Store) GiveBack(ctx context.Context, silent time.Duration) (int64, error) {
	res, err := s.db.ExecContext(ctx, `update river_job j set state = 'available', scheduled_at = now(), attempt = greatest(attempt - 1, 0)
		where state = 'running' and attempted_at < now() - make_interval(secs => $1) and not exists (select from workers w
			where w.id = j.attempted_by[array_upper(j.attempted_by, 1)] and w.seen > now() - make_interval(secs => $1))`, silent.Seconds())
	if err != nil {
		return 0, err
	}
	if _, err := s.db.ExecContext(ctx, `delete from workers where seen < now() - interval '1 day'`); err != nil {
		return 0, err
	}
	return res.RowsAffected()
}

// EnqueueWaiting puts all work that has not ended on the queue; what is there already stays as it is.
func (s *Store) EnqueueWaiting(ctx context.Context) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		var all []Work
		err := tx.SelectContext(ctx, &all, `select 'read' as kind, id, 0 as pages from intakes where state in ('waiting', 'reading')
			union all select kind, id, total from tasks where state in ('waiting', 'working')
			union all select 'post', id, 0 from letters where state = 'waiting'
			union all select 'return', id, 0 from returns where state = 'unread'
			union all select 'hook', id, 0 from hook_calls where state = 'waiting' order by id`)
		for _, w := range all {
			if err == nil {
				err = s.enqueue(ctx, tx, w)
			}
		}
		return err
	})
}

// Queued is how many jobs of a kind are in a state.
type Queued struct {
	Kind  string `db:"kind"`
	State string `db:"state"`
	Count int    `db:"count"`
}

// Queue counts the jobs that wait or are done just now.
func (s *Store) Queue(ctx context.Context) ([]Queued, error) {
	var out []Queued
	err := s.db.SelectContext(ctx, &out, `select kind, case state when 'running' then 'running' else 'waiting' end as state, count(*) as count
		from river_job where state in ('available', 'pending', 'retryable', 'running', 'scheduled') group by 1, 2 order by 1, 2`)
	return out, err
}

// Failure is work that was given up by a fault of ours.
type Failure struct {
	Kind    string    `db:"kind"`
	ID      int64     `db:"id"`
	What    string    `db:"what"` // the file or the document
	Problem string    `db:"problem"`
	At      time.Time `db:"at"`
	Who     string    `db:"who"`
}

// Failures lists the work of the last thirty days that was given up, latest first.
func (s *Store) Failures(ctx context.Context) ([]Failure, error) {
	var out []Failure
	err := s.db.SelectContext(ctx, &out, `select * from (
			select 'read' as kind, i.id, i.file_name as what, i.problem, i.created_at as at, a.name as who
			from intakes i join accounts a on a.id = i.account_id where i.state = 'failed'
			union all
			select t.kind, t.id, d.title, t.problem, t.created_at, a.name
			from tasks t join documents d on d.id = t.document_id join accounts a on a.id = t.account_id where t.state = 'failed'
				and not exists (select from tasks l where l.document_id = t.document_id and l.kind = t.kind and l.id > t.id)
			union all
			select 'post', l.id, e.file_name, l.problem, l.made_at, a.name
			from letters l join form_links k on k.id = l.link_id join editions e on e.id = k.edition_id join accounts a on a.id = l.made_by
			where l.state = 'failed'
		) f where at > now() - interval '30 days' order by at desc limit 100`)
	return out, err
}

// TryAgain puts work that was given up on the queue once more.
func (s *Store) TryAgain(ctx context.Context, kind string, id int64) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		switch kind {
		case WorkRead:
			return s.readAgain(ctx, tx, id, "failed")
		case WorkPost:
			if err := oneOf(tx.ExecContext(ctx, `update letters set state = 'waiting', problem = '' where id = $1 and state = 'failed'`,
				id)); err != nil {
				return err
			}
			return s.enqueue(ctx, tx, Work{Kind: kind, ID: id, Again: true})
		}
		var t Task
		err := tx.GetContext(ctx, &t, taskColumns+`where id = $1 and kind = $2 and state = 'failed' for update`, id, kind)
		if err != nil {
			return gone(err)
		}
		if _, err := tx.ExecContext(ctx, `update tasks set state = 'waiting', problem = '', step = 'waiting for its turn', done = 0
			where id = $1`, id); err != nil {
			return err
		}
		return s.enqueue(ctx, tx, Work{Kind: kind, ID: id, Pages: len(t.Pages()), Again: true})
	})
}

// Size is how much room a document takes with its files and editions, in bytes. Files that several documents share count for each.
type Size struct {
	ID    int64  `db:"id"`
	Title string `db:"title"`
	Bytes int64  `db:"bytes"`
}

// Largest lists the documents that take most room.
func (s *Store) Largest(ctx context.Context, n int) ([]Size, error) {
	var out []Size
	err := s.db.SelectContext(ctx, &out, `select d.id, d.title, sum(octet_length(f.bytes)) as bytes from documents d
		join (select document_id, file from originals union select document_id, file from editions
			union select id, p ->> 'file' from documents, jsonb_array_elements(pages) p) u on u.document_id = d.id
		join files f on f.sha256 = u.file group by d.id, d.title order by bytes desc, d.id limit $1`, n)
	return out, err
}

// Room is how large the database is, in bytes, and the folder that it lies in where that is told.
func (s *Store) Room(ctx context.Context) (bytes int64, folder string, err error) {
	if err = s.db.GetContext(ctx, &bytes, `select pg_database_size(current_database())`); err != nil {
		return 0, "", err
	}
	err = s.db.GetContext(ctx, &folder, `select coalesce((select setting from pg_settings where name = 'data_directory'), '')`)
	return bytes, folder, err
}
