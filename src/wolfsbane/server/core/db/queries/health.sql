-- name: health^
-- Newest migration, and when a job worker was last heard of.
select (select coalesce(max(number), 0) from migrations) as migration,
    (select max(last_heartbeat) from procrastinate_workers) as worker_at;
