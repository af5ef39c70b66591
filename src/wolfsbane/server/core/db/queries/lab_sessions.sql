-- name: lab_session_add^
insert into lab_sessions (school_id, rig_id, rig_name, class_id, title, people, body, planted, machine, rubric, asks, began_by)
values (:school_id, :rig_id, :rig_name, :class_id, :title, :people, :body, :planted, :machine, :rubric, :asks, :user_id)
returning id;

-- name: lab_session_get^
select * from lab_sessions where school_id = :school_id and id = :id;

-- name: lab_session_hold^
-- One session, held until the transaction ends, so that two senders do not judge it at once.
select * from lab_sessions where school_id = :school_id and id = :id for update;

-- name: lab_session_list
-- Sessions that run, and those that ended within some days, newest first.
select id, rig_id, rig_name, class_id, title, people, asks, forecast, judged, began_at, ended_at
from lab_sessions where school_id = :school_id and (ended_at is null or ended_at > now() - make_interval(days => :days))
order by ended_at is not null, began_at desc, id desc;

-- name: lab_session_of_rig^
select id from lab_sessions where school_id = :school_id and rig_id = :rig_id and ended_at is null;

-- name: lab_session_before^
-- The last session at a rig that is over, and when a device of the rig was last set or undone.
select s.id, s.planted, s.judged, s.ended_at,
    (select max(e.at) from rig_events e where e.rig_id = s.rig_id and e.kind in ('set', 'undone')) as moved_at
from lab_sessions s where s.school_id = :school_id and s.rig_id = :rig_id and s.ended_at is not null
order by s.ended_at desc, s.id desc limit 1;

-- name: lab_sessions_of_user
-- The sessions of whoever is logged in as one of their people, newest first.
select s.id, s.rig_name, s.title, s.began_at, s.ended_at from lab_sessions s
where s.school_id = :school_id
  and exists (select 1 from apprentices a where a.user_id = :user_id and a.id = any(s.people))
order by s.ended_at is not null, s.began_at desc, s.id desc limit 60;

-- name: lab_session_of_user^
select s.* from lab_sessions s
where s.school_id = :school_id and s.id = :id
  and exists (select 1 from apprentices a where a.user_id = :user_id and a.id = any(s.people));

-- name: lab_sessions_of_class
select id, rig_name, title, people, judged, began_at, ended_at from lab_sessions
where school_id = :school_id and class_id = :class_id and ended_at is not null order by began_at, id;

-- name: lab_sessions_of_person
select id, rig_name, title, people, judged, began_at, ended_at from lab_sessions
where school_id = :school_id and :apprentice_id = any(people) and judged is not null order by began_at, id;

-- name: lab_sessions_with
select id, rig_name, title, judged, began_at from lab_sessions
where school_id = :school_id and :apprentice_id = any(people) order by began_at, id;

-- name: lab_session_judged!
update lab_sessions set judged = :judged where school_id = :school_id and id = :id;

-- name: lab_session_forecast!
update lab_sessions set forecast = :forecast where school_id = :school_id and id = :id;

-- name: lab_session_ended!
update lab_sessions set ended_at = :at where school_id = :school_id and id = :id and ended_at is null;

-- name: lab_event_add^
-- Nothing comes back where it was there already.
insert into lab_events (school_id, session_id, client_id, at, kind, data, desk, user_id)
values (:school_id, :session_id, :client_id, :at, :kind, :data, :desk, :user_id)
on conflict on constraint lab_event_once do nothing returning id;

-- name: lab_event_list
select e.kind, e.at, e.data, e.desk, e.client_id, u.name as who from lab_events e left join users u on u.id = e.user_id
where e.session_id = :session_id order by e.at, e.id;

-- name: lab_people
select id, name, class_id, user_id from apprentices where school_id = :school_id and id = any(:ids) order by position, id;

-- name: lab_sessions_forget!
-- An apprentice who is erased is no longer of any session; one that is nobody's any more goes with its events.
with gone as (delete from lab_sessions where school_id = :school_id and people = array[:apprentice_id]::bigint[]),
     log as (update refrigerant_moves set person = replace(person, :name, 'erased student')
             where school_id = :school_id and why like 'Lab session %%' and position(:name in person) > 0)
update lab_sessions set people = array_remove(people, :apprentice_id::bigint)
where school_id = :school_id and :apprentice_id = any(people) and cardinality(people) > 1;
