-- name: rig_list
-- The school's rigs with the logger's last word on each.
select r.id, r.name, r.body, r.columns, r.token_hash is not null as has_token, w.state, w.told, w.since, w.seen_at, w.clock_s,
    w.shown, w.watch, (select max(b.made_at) from rig_baselines b where b.rig_id = r.id) as baseline_at,
    (select max(p.taken_at) from rig_photos p where p.rig_id = r.id) as photo_at,
    (select jsonb_build_object('at', e.at, 'signed', e.data->>'signed', 'seen', (
            select jsonb_build_object('kind', c.kind, 'text', c.data->>'text') from rig_events c
            where c.rig_id = r.id and c.kind in ('returned', 'released') and c.id > e.id order by c.id limit 1))
        from rig_events e where e.rig_id = r.id and e.kind = 'undone' order by e.id desc limit 1) as undone,
    (select jsonb_agg(to_jsonb(p)) from (
        select distinct on (e.data->>'device') e.data->>'device' as device,
            (e.data->>'position')::double precision as position, e.at
        from rig_events e where e.rig_id = r.id and e.kind in ('set', 'undone')
        order by e.data->>'device', e.at desc, e.id desc) p where p.position > 0) as standing
from rigs r left join rig_watch w on w.rig_id = r.id
where r.school_id = :school_id and r.archived_at is null order by r.name;

-- name: rig_get^
select r.id, r.name, r.body, r.columns, r.token_hash is not null as has_token, w.state, w.told, w.since, w.seen_at, w.clock_s,
    w.shown, w.watch, (select max(b.made_at) from rig_baselines b where b.rig_id = r.id) as baseline_at,
    (select max(p.taken_at) from rig_photos p where p.rig_id = r.id) as photo_at,
    (select jsonb_build_object('at', e.at, 'signed', e.data->>'signed', 'seen', (
            select jsonb_build_object('kind', c.kind, 'text', c.data->>'text') from rig_events c
            where c.rig_id = r.id and c.kind in ('returned', 'released') and c.id > e.id order by c.id limit 1))
        from rig_events e where e.rig_id = r.id and e.kind = 'undone' order by e.id desc limit 1) as undone,
    (select jsonb_agg(to_jsonb(p)) from (
        select distinct on (e.data->>'device') e.data->>'device' as device,
            (e.data->>'position')::double precision as position, e.at
        from rig_events e where e.rig_id = r.id and e.kind in ('set', 'undone')
        order by e.data->>'device', e.at desc, e.id desc) p where p.position > 0) as standing
from rigs r left join rig_watch w on w.rig_id = r.id
where r.school_id = :school_id and r.id = :rig_id and r.archived_at is null;

-- name: rig_add^
insert into rigs (school_id, name, body, created_by) values (:school_id, :name, :body, :user_id) returning id;

-- name: rig_change!
update rigs set name = :name, body = :body where school_id = :school_id and id = :rig_id;

-- name: rig_archive!
update rigs set archived_at = now(), token_hash = null, name = name || ' (' || id || ')'
where school_id = :school_id and id = :rig_id and archived_at is null;

-- name: rig_token!
update rigs set token_hash = :token_hash where school_id = :school_id and id = :rig_id;

-- name: rig_columns!
update rigs set columns = :columns where school_id = :school_id and id = :rig_id;

-- name: rig_by_token^
select id, school_id, name, body from rigs where token_hash = :token_hash and archived_at is null;

-- name: rigs_logged
-- Every rig that the logger reads, of all schools.
select r.id, r.school_id, r.name, r.body,
    (select jsonb_agg(jsonb_build_object('plate', o.tuned->'plate', 'circuit', o.tuned->'circuit'))
     from own_machines o where o.school_id = r.school_id and o.machine_id = r.body->>'machine') as own,
    (select b.body from rig_baselines b where b.rig_id = r.id order by b.id desc limit 1) as baseline,
    (select max(s.at) from rig_samples s where s.rig_id = r.id) as last_at,
    -- the last undo, until the rig was seen back at its baseline or somebody released it
    (select e.id from rig_events e where e.rig_id = r.id and e.kind = 'undone' and not exists (
        select from rig_events c where c.rig_id = r.id and c.kind in ('returned', 'released') and c.id > e.id)
        order by e.id desc limit 1) as undone
from rigs r where r.archived_at is null order by r.id;

-- name: rig_sample_add*!
insert into rig_samples (rig_id, at, clock_s, shown) values (:rig_id, :at, :clock_s, :shown)
on conflict do nothing;

-- name: rig_samples_between
-- Samples of one rig, oldest first.
select at, clock_s, shown from rig_samples where rig_id = :rig_id and at >= :from_at and at <= :to_at order by at;

-- name: rig_samples_last
-- The last samples of one rig, newest first.
select at, clock_s, shown from rig_samples where rig_id = :rig_id and at > now() - make_interval(secs => :seconds)
order by at desc limit :most;

-- name: rig_samples_after
select at, clock_s, shown from rig_samples where rig_id = :rig_id and at > :after order by at limit :most;

-- name: rig_watch_set!
insert into rig_watch (rig_id, state, told, since, seen_at, clock_s, shown, watch)
values (:rig_id, :state, :told, now(), :seen_at, :clock_s, :shown, :watch)
on conflict (rig_id) do update set state = excluded.state, told = excluded.told,
    since = case when rig_watch.state = excluded.state then rig_watch.since else now() end,
    seen_at = coalesce(excluded.seen_at, rig_watch.seen_at), clock_s = coalesce(excluded.clock_s, rig_watch.clock_s),
    shown = coalesce(excluded.shown, rig_watch.shown), watch = excluded.watch;

-- name: rig_event_add!
insert into rig_events (school_id, rig_id, kind, data, user_id, at)
values (:school_id, :rig_id, :kind, :data, :user_id, coalesce(:at, now()));

-- name: rig_events
select e.at, e.kind, e.data, u.name as who from rig_events e left join users u on u.id = e.user_id
where e.rig_id = :rig_id and e.at >= :from_at order by e.at desc, e.id desc limit :most;

-- name: rig_positions
-- Where each device stands: the last word on it.
select distinct on (data->>'device') data->>'device' as device, (data->>'position')::double precision as position, at, kind
from rig_events where rig_id = :rig_id and kind in ('set', 'undone') order by data->>'device', at desc, id desc;

-- name: rig_baseline_add^
insert into rig_baselines (school_id, rig_id, from_at, to_at, solver, body, made_by)
values (:school_id, :rig_id, :from_at, :to_at, :solver, :body, :user_id) returning id;

-- name: rig_baselines
select b.id, b.made_at, b.from_at, b.to_at, b.solver, b.body, u.name as who from rig_baselines b
left join users u on u.id = b.made_by where b.rig_id = :rig_id order by b.id desc;

-- name: rig_setting_add!
insert into rig_settings (school_id, rig_id, device, position, fault, severity, spread, square, measured_by)
values (:school_id, :rig_id, :device, :position, :fault, :severity, :spread, :square, :user_id);

-- name: rig_settings
select id, measured_at, device, position, fault, severity, spread, square from rig_settings
where rig_id = :rig_id order by device, position, id;

-- name: rig_setting_drop!
delete from rig_settings where school_id = :school_id and rig_id = :rig_id and id = :setting_id;

-- name: rig_fold_minutes!
-- Samples older than this become minute means.
with old as (
    select rig_id, date_trunc('minute', at) as minute, clock_s, shown from rig_samples where at < date_trunc('minute', cast(:before as timestamptz))
), spread as (
    select o.rig_id, o.minute, min(o.clock_s) as clock_s, count(distinct o.clock_s) as samples, p.i,
        avg(p.v) as mean, coalesce(stddev_pop(p.v), 0) as scatter
    from old o, unnest(o.shown) with ordinality as p(v, i) group by o.rig_id, o.minute, p.i
), folded as (
    insert into rig_minutes (rig_id, at, clock_s, samples, mean, scatter)
    select rig_id, minute, min(clock_s), max(samples), array_agg(mean::real order by i), array_agg(scatter::real order by i)
    from spread group by rig_id, minute on conflict do nothing
)
delete from rig_samples where at < date_trunc('minute', cast(:before as timestamptz));

-- name: rig_photo_set!
insert into rig_photos (rig_id, school_id, picture) values (:rig_id, :school_id, :picture)
on conflict (rig_id) do update set picture = excluded.picture, taken_at = now();

-- name: rig_photo^
select picture from rig_photos where rig_id = :rig_id and school_id = :school_id;

-- name: rig_photo_drop!
delete from rig_photos where rig_id = :rig_id and school_id = :school_id;

-- name: rotation_running^
-- The lab that runs in a school now.
select l.id, l.class_id, c.name as class_name, l.minutes, l.seats, l.rigs, l.away, l.rounds, l.current, l.round_began
from lab_rotations l join classes c on c.id = l.class_id where l.school_id = :school_id and l.ended_at is null;

-- name: rotation_add!
insert into lab_rotations (school_id, class_id, minutes, seats, rigs, away, rounds, began_by)
values (:school_id, :class_id, :minutes, :seats, :rigs, :away, :rounds, :user_id);

-- name: rotation_change!
update lab_rotations set away = :away, rounds = :rounds where school_id = :school_id and id = :id and ended_at is null;

-- name: rotation_turn!
-- On to a round; asked twice for the same one, it began once.
update lab_rotations set current = :to_round, round_began = now()
where school_id = :school_id and id = :id and ended_at is null and current = :to_round - 1;

-- name: rotation_end!
update lab_rotations set ended_at = now() where school_id = :school_id and id = :id and ended_at is null;
