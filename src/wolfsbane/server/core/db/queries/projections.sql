-- name: projection_add^
-- Put a case up.
insert into projections (school_id, created_by, token_hash, bench, parts, expires_at)
values (:school_id, :user_id, :token_hash, :bench, :parts, now() + make_interval(hours => :hours)) returning id;

-- name: projection_latest^
-- The newest case a user has up.
select * from projections where school_id = :school_id and created_by = :user_id and ended_at is null and expires_at > now()
order by id desc limit 1;

-- name: projection_mine^
-- One case of a user, held while it is changed.
select * from projections where school_id = :school_id and created_by = :user_id and id = :id and ended_at is null
and expires_at > now() for update;

-- name: projection_by_token^
-- What a token opens.
select p.step, p.shown, p.tests, p.parts, p.revision, s.name as school
from projections p join schools s on s.id = p.school_id
where p.token_hash = :token_hash and p.ended_at is null and p.expires_at > now();

-- name: projection_turn!
-- Another step or reveal.
update projections set step = :step, shown = :shown, tests = :tests, revision = revision + 1 where id = :id;

-- name: projection_end!
-- Take every case of a user down.
update projections set ended_at = now() where school_id = :school_id and created_by = :user_id and ended_at is null;
