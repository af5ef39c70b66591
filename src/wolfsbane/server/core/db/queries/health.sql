-- name: health^
-- Newest migration, and when a job worker was last heard of.
select (select coalesce(max(number), 0) from migrations) as migration,
    (select max(last_heartbeat) from procrastinate_workers) as worker_at;

-- name: figures^
-- What is watched: jobs, sessions, sizes.
select (select count(*) from procrastinate_jobs where status = 'todo' and queue_name not in ('house', 'ahead')) as jobs_waiting,
    (select count(*) from procrastinate_jobs where status = 'doing' and queue_name not in ('house', 'ahead')) as jobs_running,
    (select coalesce(extract(epoch from now() - min(e.at)), 0) from procrastinate_jobs j
     join procrastinate_events e on e.job_id = j.id and e.type = 'deferred'
     where j.status = 'todo' and j.queue_name not in ('house', 'ahead')) as jobs_oldest_s,
    (select extract(epoch from now() - max(last_heartbeat)) from procrastinate_workers) as worker_silent_s,
    (select count(*) from sessions where expires_at > now()) as sessions,
    (select count(*) from schools) as schools,
    (select count(*) from papers) as papers,
    (select count(*) from login_attempts where not succeeded and at > now() - interval '15 minutes') as failed_log_ins,
    pg_database_size(current_database()) as database_bytes;

-- name: sweep!
-- Forget what nobody needs: log-ins and codes that ended, calls of sheets that were made, pages that can be printed
-- again from what is kept, jobs that are long done.
with sessions_gone as (delete from sessions where expires_at < now()),
     attempts as (delete from login_attempts where at < now() - interval '1 day'),
     browsers as (delete from login_devices where seen_at < now() - interval '180 days'),
     codes as (delete from account_codes where expires_at < now() or used_at < now() - interval '30 days'),
     drawn as (delete from drawn_calls d using sheets s where s.id = d.sheet_id and (s.status in ('ready', 'cancelled')
         or (s.status = 'draft' and d.drawn_at < now() - interval '7 days'))),
     printed as (delete from documents where created_at < now() - interval '400 days')
select 1;
