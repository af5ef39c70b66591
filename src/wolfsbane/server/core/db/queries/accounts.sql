-- name: users_by_login
-- Everybody of that name who can log in, with password hash and school: one at most where the school is given.
-- Who has no password yet (imported, or given a code) gets in with a code, and stands in nobody's way here.
select u.id, u.school_id, u.login, u.name, u.role, u.password_hash, u.must_change, u.totp_secret, u.language,
       s.name as school, s.short, s.time_zone
from users u join schools s on s.id = u.school_id
where u.login = :login and u.disabled_at is null and u.password_hash like '$argon2%%'
  and (:school = '' or s.short = :school) order by u.id limit 2;

-- name: user_by_login^
-- One user of a school.
select u.id, u.school_id, u.login, u.name, u.role, u.password_hash, s.name as school, s.time_zone
from users u join schools s on s.id = u.school_id
where u.login = :login and u.school_id = :school_id and u.disabled_at is null;

-- name: user_secrets^
-- What proves that somebody is who they say.
select password_hash, must_change, totp_secret, totp_pending from users where school_id = :school_id and id = :id;

-- name: session_start!
-- Keep a new session; the one this browser had before ends.
with before as (delete from sessions where token_hash = :before)
insert into sessions (token_hash, school_id, user_id, csrf, expires_at, address, browser)
values (:token_hash, :school_id, :user_id, :csrf, now() + make_interval(hours => :hours), :address, :browser);

-- name: session_user^
-- The user behind a live session that was not left alone for too long.
select u.id, u.school_id, u.login, u.name, u.role, u.must_change, u.language, u.totp_secret is not null as totp,
       s.name as school, s.time_zone, x.csrf, x.id as session_id, x.seen_at < now() - interval '1 minute' as stale
from sessions x join users u on u.id = x.user_id join schools s on s.id = x.school_id
where x.token_hash = :token_hash and x.expires_at > now() and u.disabled_at is null
  and x.seen_at > now() - make_interval(mins => :idle);

-- name: user_language!
with own as (
  update apprentices set language = :language where school_id = :school_id and user_id = :id
)
update users set language = :language where school_id = :school_id and id = :id;

-- name: session_seen!
update sessions set seen_at = now() where id = :id;

-- name: session_list
-- Where somebody is logged in, newest first.
select id, created_at, seen_at, address, browser from sessions
where school_id = :school_id and user_id = :user_id and expires_at > now()
  and seen_at > now() - make_interval(mins => :idle) order by seen_at desc;

-- name: session_end_own^
-- End one session of somebody.
delete from sessions where school_id = :school_id and user_id = :user_id and id = :id returning id;

-- name: sessions_end!
-- End every session of somebody but one (0: all).
delete from sessions where school_id = :school_id and user_id = :user_id and id <> :but;

-- name: session_end!
-- Forget a session.
delete from sessions where token_hash = :token_hash;

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
select d.token_hash from login_devices d
where d.token_hash = :token_hash and d.user_id = :user_id and d.seen_at > now() - interval '180 days';

-- name: login_device_keep!
insert into login_devices (token_hash, school_id, user_id) values (:token_hash, :school_id, :user_id)
on conflict (token_hash) do update set seen_at = now();

-- name: school_add^
-- Add a school.
insert into schools (name, time_zone) values (:name, :time_zone) returning id;

-- name: schools_many^
-- Whether more than one school shares this server.
select count(*) > 1 as found from schools;

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
select u.id, u.login, u.name, u.role, u.disabled_at is not null as disabled, u.totp_secret is not null as totp,
       (select max(c.expires_at) from account_codes c
        where c.user_id = u.id and c.kind <> 'recovery' and c.used_at is null and c.expires_at > now()) as code_until,
       (select max(x.seen_at) from sessions x where x.user_id = u.id) as seen_at,
       (select min(a.name) from apprentices a where a.user_id = u.id) as apprentice
from users u where u.school_id = :school_id order by u.role desc, u.name;

-- name: account_get^
-- One account.
select id, login, name, role, disabled_at is not null as disabled, totp_secret is not null as totp,
       (select max(c.expires_at) from account_codes c
        where c.user_id = users.id and c.kind <> 'recovery' and c.used_at is null and c.expires_at > now()) as code_until,
       (select max(x.seen_at) from sessions x where x.user_id = users.id) as seen_at
from users where school_id = :school_id and id = :id;

-- name: account_put!
-- Change an account; its sessions end when it is switched off.
with off as (delete from sessions where user_id = :id and :disabled)
update users set name = :name, role = :role, disabled_at = case when :disabled then coalesce(disabled_at, now()) end
where school_id = :school_id and id = :id;

-- name: account_password!
-- A new password; every session of the account ends, and so do codes that would give another.
with out as (delete from sessions where user_id = :id),
     codes as (delete from account_codes where user_id = :id and kind <> 'recovery')
update users set password_hash = :password_hash, must_change = :must_change where school_id = :school_id and id = :id;

-- name: account_code_add!
-- A one-time code; the ones of its kind before it end.
with before as (delete from account_codes where user_id = :user_id and kind in ('invitation', 'reset'))
insert into account_codes (school_id, user_id, kind, code_hash, expires_at)
values (:school_id, :user_id, :kind, :code_hash, now() + make_interval(days => :days));

-- name: account_void!
-- The password no longer fits, the second factor is off, every session ends: a code is the way in.
with out as (delete from sessions where user_id = :id),
     recovery as (delete from account_codes where user_id = :id and kind = 'recovery')
update users set password_hash = '!', totp_secret = null, totp_pending = null where school_id = :school_id and id = :id;

-- name: account_code^
-- Whose a code is that was not used yet.
select c.id, c.kind, u.id as user_id, u.school_id, u.login, u.name, u.role, s.name as school, s.short, s.time_zone
from account_codes c join users u on u.id = c.user_id join schools s on s.id = u.school_id
where c.code_hash = :code_hash and c.kind <> 'recovery' and c.used_at is null and c.expires_at > now()
  and u.disabled_at is null;

-- name: account_code_use^
-- Use a code up; nothing where somebody else was faster.
update account_codes set used_at = now()
where code_hash = :code_hash and used_at is null and expires_at > now() and user_id = :user_id
returning kind;

-- name: totp_propose!
update users set totp_pending = :secret where school_id = :school_id and id = :id;

-- name: totp_take!
-- The proposed secret counts from now on; recovery codes of an earlier one end.
with before as (delete from account_codes where user_id = :id and kind = 'recovery')
update users set totp_secret = totp_pending, totp_pending = null, totp_last = :counter
where school_id = :school_id and id = :id;

-- name: totp_off!
with before as (delete from account_codes where user_id = :id and kind = 'recovery')
update users set totp_secret = null, totp_pending = null where school_id = :school_id and id = :id;

-- name: totp_used^
-- Take the code of a counter once.
update users set totp_last = :counter where id = :id and totp_last < :counter returning id;

-- name: recovery_add!
insert into account_codes (school_id, user_id, kind, code_hash, expires_at)
values (:school_id, :user_id, 'recovery', :code_hash, now() + interval '10 years');

-- name: trail_add!
-- Write down what somebody did to an account, a class or the school.
insert into school_trail (school_id, writer, did) values (:school_id, :writer, :did);

-- name: trail_list
-- What was done, newest first, before one row.
select t.id, t.at, t.did, t.writer from school_trail t
where t.school_id = :school_id and (:before::bigint is null or t.id < :before) order by t.id desc limit 50;

-- name: school_hold^
-- Whoever changes who may teach waits for whoever does so now.
select id from schools where id = :school_id for no key update;

-- name: account_must_change!
-- The password was chosen by somebody else.
update users set must_change = true where school_id = :school_id and id = :id;

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

-- name: users_everywhere
-- For the operator: who can log in, of one school or of all, one name or everybody.
select u.id, u.school_id, u.login, u.name, u.role, u.disabled_at is not null as disabled, s.name as school, s.short
from users u join schools s on s.id = u.school_id
where (:school = '' or s.short = :school) and (:login = '' or u.login = :login) order by s.short, u.role desc, u.login;

-- name: oidc_begin!
-- A log-in by the provider is under way; older ones that nobody finished go.
with old as (delete from oidc_flows where expires_at < now())
insert into oidc_flows (state_hash, nonce, verifier, user_id) values (:state_hash, :nonce, :verifier, :user_id);

-- name: oidc_take^
-- Take one up, once.
delete from oidc_flows where state_hash = :state_hash and expires_at > now() returning nonce, verifier, user_id;

-- name: identity_user^
-- Whose account an identity is linked with.
select u.id, u.school_id, u.login, u.name, u.role, u.must_change, u.totp_secret, s.name as school, s.short, s.time_zone
from user_identities i join users u on u.id = i.user_id join schools s on s.id = u.school_id
where i.issuer = :issuer and i.subject = :subject and u.disabled_at is null;

-- name: identity_link!
-- Link an account with an identity, in place of the one it had there.
with before as (delete from user_identities where user_id = :user_id and issuer = :issuer)
insert into user_identities (school_id, user_id, issuer, subject)
select u.school_id, u.id, :issuer, :subject from users u where u.id = :user_id;

-- name: identity_unlink!
delete from user_identities where user_id = :user_id and issuer = :issuer;

-- name: identity_linked^
select exists (select 1 from user_identities where user_id = :user_id and issuer = :issuer) as linked;
