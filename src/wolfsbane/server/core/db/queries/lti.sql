-- name: lti_platform_add^
-- Enter a learning platform.
insert into lti_platforms (school_id, name, issuer, client_id, deployments, login_url, token_url, keys_url)
values (:school_id, :name, :issuer, :client_id, :deployments, :login_url, :token_url, :keys_url) returning id;

-- name: lti_platform_list
-- Platforms of a school, with how many courses and people came from each.
select p.id, p.name, p.issuer, p.client_id, p.deployments, p.login_url, p.token_url, p.keys_url,
       (select count(*)::int from lti_courses c where c.platform_id = p.id) as courses,
       (select count(*)::int from lti_people x join lti_courses c on c.id = x.course_id where c.platform_id = p.id) as people
from lti_platforms p where p.school_id = :school_id order by p.name, p.id;

-- name: lti_platform_remove^
delete from lti_platforms where school_id = :school_id and id = :id returning name;

-- name: lti_platform_at
-- Whose launch this is; without our name there, every platform of that issuer.
select id, school_id, name, issuer, client_id, deployments, login_url, token_url, keys_url from lti_platforms
where issuer = :issuer and (:client_id = '' or client_id = :client_id) order by id limit 2;

-- name: lti_launch_begin!
-- A launch is under way; older ones that nobody finished go.
with old as (delete from lti_launches where expires_at < now())
insert into lti_launches (state_hash, school_id, platform_id, nonce) values (:state_hash, :school_id, :platform_id, :nonce);

-- name: lti_launch_take^
-- The question of a launch that was not answered yet, to be answered once.
select l.nonce, p.* from lti_launches l join lti_platforms p on p.id = l.platform_id
where l.state_hash = :state_hash and l.answered is null and l.expires_at > now();

-- name: lti_launch_answer^
-- Keep what the platform said, once.
update lti_launches set answered = :answered where state_hash = :state_hash and answered is null and expires_at > now()
returning state_hash;

-- name: lti_launch_answered^
-- What the platform said of a launch, while it is good.
select l.school_id, l.platform_id, l.answered, p.name as platform from lti_launches l
join lti_platforms p on p.id = l.platform_id
where l.state_hash = :state_hash and l.answered is not null and l.expires_at > now();

-- name: lti_launch_end!
delete from lti_launches where state_hash = :state_hash;

-- name: lti_course_seen^
-- A course as its platform tells of it now.
insert into lti_courses (school_id, platform_id, context, title, names_url, items_url)
values (:school_id, :platform_id, :context, :title, :names_url, :items_url)
on conflict (platform_id, context) do update set title = excluded.title,
  names_url = case when excluded.names_url = '' then lti_courses.names_url else excluded.names_url end,
  items_url = case when excluded.items_url = '' then lti_courses.items_url else excluded.items_url end
returning id, class_id;

-- name: lti_course_get^
select c.id, c.title, c.class_id, c.names_url, c.items_url, c.names_at, p.id as platform_id, p.name as platform,
       p.issuer, p.client_id, p.deployments, p.login_url, p.token_url, p.keys_url
from lti_courses c join lti_platforms p on p.id = c.platform_id where c.school_id = :school_id and c.id = :id;

-- name: lti_courses
-- Courses that instructors came from, with the class each is.
select c.id, c.title, c.class_id, k.name as class_name, c.names_url <> '' as lists_names, c.items_url <> '' as takes_points,
       c.names_at, p.name as platform, (select count(*)::int from lti_people x where x.course_id = c.id) as people
from lti_courses c join lti_platforms p on p.id = c.platform_id left join classes k on k.id = c.class_id
where c.school_id = :school_id order by p.name, c.title, c.id;

-- name: lti_course_is!
-- Say which class a course is; who came from it before is known in that class only.
with gone as (delete from lti_people x using lti_courses c where c.id = x.course_id and c.id = :id
    and c.school_id = :school_id and c.class_id is distinct from :class_id::bigint)
update lti_courses set class_id = :class_id where school_id = :school_id and id = :id;

-- name: lti_course_named!
update lti_courses set names_at = now() where school_id = :school_id and id = :id;

-- name: lti_people
-- Who is who in a course.
select x.subject, a.id, a.name, a.number, a.group_name, a.left_at is not null as gone, a.user_id, a.class_id
from lti_people x join apprentices a on a.id = x.apprentice_id where x.course_id = :course_id order by a.position;

-- name: lti_person_add!
insert into lti_people (school_id, course_id, subject, apprentice_id) values (:school_id, :course_id, :subject, :apprentice_id);

-- name: lti_staff_get^
-- The account that somebody of a platform linked.
select u.id, u.school_id, u.login, u.name, u.role, u.must_change, u.totp_secret, s.name as school, s.short, s.time_zone
from lti_staff x join users u on u.id = x.user_id join schools s on s.id = u.school_id
where x.platform_id = :platform_id and x.subject = :subject and u.disabled_at is null;

-- name: lti_staff_link!
with before as (delete from lti_staff where platform_id = :platform_id and (user_id = :user_id or subject = :subject))
insert into lti_staff (school_id, platform_id, subject, user_id) values (:school_id, :platform_id, :subject, :user_id);

-- name: lti_user^
-- An account with what a session needs.
select u.id, u.school_id, u.login, u.name, u.role, u.must_change, u.totp_secret, s.name as school, s.short, s.time_zone
from users u join schools s on s.id = u.school_id where u.school_id = :school_id and u.id = :id and u.disabled_at is null;

-- name: lti_sheet_courses
-- Courses that take points of a sheet.
select c.id, c.title, c.items_url, p.name as platform, p.issuer, p.client_id, p.deployments, p.login_url, p.token_url,
       p.keys_url
from sheets s join lti_courses c on c.class_id = s.class_id join lti_platforms p on p.id = c.platform_id
where s.school_id = :school_id and s.id = :sheet_id and c.items_url <> '' order by c.id;

-- name: lti_points_put!
-- What somebody's points are, still to be sent.
insert into lti_points (school_id, sheet_id, apprentice_id, earned, possible)
values (:school_id, :sheet_id, :apprentice_id, :earned, :possible)
on conflict (sheet_id, apprentice_id) do update set earned = excluded.earned, possible = excluded.possible,
  sent_at = null, problem = null
where lti_points.sent_at is null or (lti_points.earned, lti_points.possible) <> (excluded.earned, excluded.possible);

-- name: lti_points_list
select x.apprentice_id, a.name, x.earned, x.possible, x.sent_at, x.problem
from lti_points x join apprentices a on a.id = x.apprentice_id
where x.school_id = :school_id and x.sheet_id = :sheet_id order by a.position;

-- name: lti_points_sent!
-- What became of it.
update lti_points set sent_at = case when :problem::text is null then now() end, problem = :problem
where sheet_id = :sheet_id and apprentice_id = :apprentice_id;

-- name: tool_key_list
-- Keys that may still have signed something, newest first.
select id, private_key, created_at < now() - interval '90 days' as old from tool_keys order by created_at desc, id;

-- name: tool_key_add!
-- A new key; those that signed nothing for 60 days go.
with gone as (delete from tool_keys where created_at < now() - interval '150 days')
insert into tool_keys (id, private_key) values (:id, :private_key);
