-- name: user_by_login^
-- One user with password hash and school.
select u.id, u.school_id, u.login, u.name, u.role, u.password_hash, s.name as school, s.time_zone
from users u join schools s on s.id = u.school_id
where u.login = :login;

-- name: session_start!
-- Keep a new session.
insert into sessions (token_hash, school_id, user_id, csrf, expires_at)
values (:token_hash, :school_id, :user_id, :csrf, now() + make_interval(hours => :hours));

-- name: session_user^
-- The user behind a live session.
select u.id, u.school_id, u.login, u.name, u.role, s.name as school, s.time_zone, x.csrf
from sessions x join users u on u.id = x.user_id join schools s on s.id = x.school_id
where x.token_hash = :token_hash and x.expires_at > now();

-- name: session_end!
-- Forget a session.
delete from sessions where token_hash = :token_hash;

-- name: sessions_sweep!
-- Forget sessions and attempts that no longer count.
with gone as (delete from login_attempts where at < now() - interval '1 day')
delete from sessions where expires_at < now();

-- name: login_failures^
-- Failed attempts for a name in the last quarter hour, since the last success.
select count(*)::int as failures from login_attempts
where login = :login and not succeeded and at > now() - interval '15 minutes'
  and at > coalesce((select max(at) from login_attempts where login = :login and succeeded), '-infinity');

-- name: login_attempt!
-- Remember an attempt.
insert into login_attempts (login, succeeded) values (:login, :succeeded);

-- name: school_add^
-- Add a school.
insert into schools (name, time_zone) values (:name, :time_zone) returning id;

-- name: school_by_name^
-- Id of a school, or null.
select id from schools where name = :name;

-- name: user_add^
-- Add a user.
insert into users (school_id, login, name, role, password_hash)
values (:school_id, :login, :name, :role, :password_hash) returning id;
