-- name: user_by_login^
-- One user with password hash and school.
select u.id, u.school_id, u.login, u.name, u.role, u.password_hash, s.name as school, s.time_zone
from users u join schools s on s.id = u.school_id
where u.login = :login and u.disabled_at is null;

-- name: session_start!
-- Keep a new session.
insert into sessions (token_hash, school_id, user_id, csrf, expires_at)
values (:token_hash, :school_id, :user_id, :csrf, now() + make_interval(hours => :hours));

-- name: session_user^
-- The user behind a live session.
select u.id, u.school_id, u.login, u.name, u.role, s.name as school, s.time_zone, x.csrf
from sessions x join users u on u.id = x.user_id join schools s on s.id = x.school_id
where x.token_hash = :token_hash and x.expires_at > now() and u.disabled_at is null;

-- name: session_end!
-- Forget a session.
delete from sessions where token_hash = :token_hash;

-- name: sessions_sweep!
-- Forget sessions and attempts that no longer count.
with gone as (delete from login_attempts where at < now() - interval '1 day'),
     browsers as (delete from login_devices where seen_at < now() - interval '180 days')
delete from sessions where expires_at < now();

-- name: login_counts^
-- Failed attempts of the last quarter hour: of this name from this address (or this known browser) since it last
-- succeeded there, of the address, of the name; each with the seconds since the last.
with recent as (
    select a.login, a.address, a.device, a.at from login_attempts a
    where not a.succeeded and a.at > now() - interval '15 minutes' and (a.login = :login or a.address = :address)
), own as (
    select at from recent where login = :login
      and (case when :device::text is null then address = :address and device is null else device = :device end)
      and at > coalesce((select max(b.at) from login_attempts b where b.login = :login and b.succeeded
          and (case when :device::text is null then b.address = :address and b.device is null else b.device = :device end)), '-infinity')
)
select (select count(*)::int from own) as pair,
    (select extract(epoch from now() - max(at))::float from own) as pair_age,
    (select count(*)::int from recent where address = :address and device is null) as place,
    (select extract(epoch from now() - max(at))::float from recent where address = :address and device is null) as place_age,
    (select count(*)::int from recent where login = :login and device is null) as everywhere,
    (select extract(epoch from now() - max(at))::float from recent where login = :login and device is null) as everywhere_age;

-- name: login_attempt!
-- Remember an attempt.
insert into login_attempts (login, succeeded, address, device) values (:login, :succeeded, :address, :device);

-- name: login_device^
-- A browser from which the owner of a name logged in before.
select d.token_hash from login_devices d join users u on u.id = d.user_id
where d.token_hash = :token_hash and u.login = :login and d.seen_at > now() - interval '180 days';

-- name: login_device_keep!
insert into login_devices (token_hash, school_id, user_id) values (:token_hash, :school_id, :user_id)
on conflict (token_hash) do update set seen_at = now();

-- name: school_add^
-- Add a school.
insert into schools (name, time_zone) values (:name, :time_zone) returning id;

-- name: school_any^
-- Whether there is a school at all.
select exists (select 1 from schools) as found;

-- name: school_by_name^
-- Id of a school, or null.
select id from schools where name = :name;

-- name: user_add^
-- Add a user.
insert into users (school_id, login, name, role, password_hash)
values (:school_id, :login, :name, :role, :password_hash) returning id;

-- name: account_list
-- Accounts of a school.
select u.id, u.login, u.name, u.role, u.disabled_at is not null as disabled,
       (select min(a.name) from apprentices a where a.user_id = u.id) as apprentice
from users u where u.school_id = :school_id order by u.role desc, u.name;

-- name: account_get^
-- One account.
select id, login, name, role, disabled_at is not null as disabled from users where school_id = :school_id and id = :id;

-- name: account_put!
-- Change an account; its sessions end when it is switched off.
with off as (delete from sessions where user_id = :id and :disabled)
update users set name = :name, role = :role, disabled_at = case when :disabled then coalesce(disabled_at, now()) end
where school_id = :school_id and id = :id;

-- name: account_password!
-- A new password; every session of the account ends.
with out as (delete from sessions where user_id = :id)
update users set password_hash = :password_hash where school_id = :school_id and id = :id;

-- name: school_hold^
-- Whoever changes who may teach waits for whoever does so now.
select id from schools where id = :school_id for no key update;

-- name: account_instructors^
-- How many instructors can log in.
select count(*)::int as number from users where school_id = :school_id and role = 'instructor' and disabled_at is null;

-- name: account_delete!
-- Forget an account that wrote nothing (an apprentice's).
with out as (delete from sessions where user_id = :id)
delete from users where school_id = :school_id and id = :id and role = 'apprentice'
  and not exists (select 1 from apprentices a where a.user_id = :id);

-- name: audit_add!
-- Write down who did what.
insert into audit (school_id, sheet_id, paper_id, position, question_id, action, before, after, reason, user_id)
values (:school_id, :sheet_id, :paper_id, :position, :question_id, :action, :before, :after, :reason, :user_id);

-- name: audit_list
-- What was done on a sheet, newest first.
select a.id, a.at, a.action, a.position, a.question_id, a.before, a.after, a.reason, u.name as writer, p.code, n.name
from audit a join users u on u.id = a.user_id left join papers p on p.id = a.paper_id
left join apprentices n on n.id = p.apprentice_id
where a.school_id = :school_id and a.sheet_id = :sheet_id order by a.id desc limit 500;
