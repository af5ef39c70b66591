-- name: screen_open^
-- Open a sheet on screen.
insert into screen_openings (school_id, sheet_id, mode, minutes, rubric, points, opened_by)
values (:school_id, :sheet_id, :mode, :minutes, :rubric, :points, :opened_by) returning id;

-- name: screen_opening^
-- The newest opening of a sheet.
select id, sheet_id, mode, minutes, rubric, points, opened_at, closed_at, told_at from screen_openings
where school_id = :school_id and sheet_id = :sheet_id order by id desc limit 1;

-- name: screen_close!
update screen_openings set closed_at = coalesce(closed_at, now()) where school_id = :school_id and id = :id;

-- name: screen_tell!
update screen_openings set told_at = coalesce(told_at, now()) where school_id = :school_id and id = :id;

-- name: screen_allow!
insert into screen_allowances (school_id, opening_id, apprentice_id, factor)
values (:school_id, :opening_id, :apprentice_id, :factor)
on conflict (opening_id, apprentice_id) do update set factor = excluded.factor;

-- name: screen_rows
-- Every call of an opened sheet that can be played, with its run where there is one.
select pc.id as paper_call_id, pc.position, p.code, a.id as apprentice_id, a.name, r.id as run_id, r.began_at,
       r.finished_at, r.judged, (select count(*)::int from screen_steps x where x.run_id = r.id) as steps,
       coalesce((select w.factor from screen_allowances w where w.opening_id = o.id and w.apprentice_id = a.id), 1) as factor
from screen_openings o join papers p on p.sheet_id = o.sheet_id join apprentices a on a.id = p.apprentice_id
join paper_calls pc on pc.paper_id = p.id
left join screen_runs r on r.paper_call_id = pc.id and r.opening_id = o.id
where o.school_id = :school_id and o.id = :id and a.left_at is null order by a.position, p.attempt, pc.position;

-- name: screen_mine
-- Calls that are open on screen for whoever is logged in, and those they played.
select o.id as opening_id, o.mode, o.minutes, o.closed_at, o.told_at, s.title, pc.id as paper_call_id, pc.position,
       pc.body -> 'machine' ->> 'name' as machine, r.id as run_id, r.began_at, r.finished_at, r.judged
from apprentices a join papers p on p.apprentice_id = a.id join sheets s on s.id = p.sheet_id
join screen_openings o on o.sheet_id = s.id join paper_calls pc on pc.paper_id = p.id
left join screen_runs r on r.paper_call_id = pc.id and r.opening_id = o.id
where a.school_id = :school_id and a.user_id = :user_id and a.left_at is null and pc.body -> 'choices' is not null
  and (o.closed_at is null or r.id is not null)
order by o.id desc, p.attempt, pc.position;

-- name: screen_call^
-- A call of one's own that is open on screen.
select o.id as opening_id, o.mode, pc.id as paper_call_id, pc.body from apprentices a
join papers p on p.apprentice_id = a.id join paper_calls pc on pc.paper_id = p.id
join screen_openings o on o.sheet_id = p.sheet_id
where a.school_id = :school_id and a.user_id = :user_id and a.left_at is null and pc.id = :paper_call_id
  and o.closed_at is null;

-- name: screen_begin^
-- Begin a call, once.
insert into screen_runs (school_id, opening_id, paper_call_id, solver_version)
values (:school_id, :opening_id, :paper_call_id, :solver_version)
on conflict (opening_id, paper_call_id) do update set solver_version = screen_runs.solver_version returning id;

-- name: screen_run^
-- A run with all it stands on.
select r.id, r.school_id, r.began_at, r.finished_at, r.judged, r.solver_version, r.paper_call_id, o.mode, o.minutes,
       o.rubric, o.points, o.closed_at, o.told_at, o.sheet_id, s.title, pc.body, pc.position,
       a.id as apprentice_id, a.name, a.user_id,
       extract(epoch from now() - r.began_at)::float as since_s,
       coalesce((select w.factor from screen_allowances w where w.opening_id = o.id and w.apprentice_id = a.id), 1) as factor
from screen_runs r join screen_openings o on o.id = r.opening_id join sheets s on s.id = o.sheet_id
join paper_calls pc on pc.id = r.paper_call_id join papers p on p.id = pc.paper_id
join apprentices a on a.id = p.apprentice_id where r.school_id = :school_id and r.id = :id;

-- name: screen_hold^
-- Hold a run while a step of it is done: one after the other.
select id from screen_runs where school_id = :school_id and id = :id for update;

-- name: screen_steps
-- The steps of a run, in order.
select number, uid, kind, data, shown, extract(epoch from at)::float as at from screen_steps
where run_id = :run_id order by number;

-- name: screen_step_add!
insert into screen_steps (school_id, run_id, number, uid, kind, data, shown)
values (:school_id, :run_id, :number, :uid, :kind, :data, :shown);

-- name: screen_finish!
update screen_runs set finished_at = coalesce(finished_at, now()), judged = :judged where school_id = :school_id and id = :id;

-- name: screen_due
-- Runs of exams whose time is over and that nobody finished.
select r.id, r.school_id from screen_runs r join screen_openings o on o.id = r.opening_id
join paper_calls pc on pc.id = r.paper_call_id join papers p on p.id = pc.paper_id
where r.finished_at is null and r.school_id = :school_id and o.id = :opening_id and (o.closed_at is not null
  or (o.minutes is not null and now() > r.began_at + make_interval(secs =>
      60 * o.minutes * coalesce((select w.factor from screen_allowances w
          where w.opening_id = o.id and w.apprentice_id = p.apprentice_id), 1))));

-- name: screen_ways
-- The finished runs of one call of an opening: who, and their judged way.
select r.id as run_id, a.name, r.judged from screen_runs r join paper_calls pc on pc.id = r.paper_call_id
join papers p on p.id = pc.paper_id join apprentices a on a.id = p.apprentice_id
where r.school_id = :school_id and r.opening_id = :opening_id and pc.position = :position and r.judged is not null
order by a.position, r.id;

-- name: screen_exam_points
-- Points of the exams of a class on screen, the later opening of a sheet last.
select o.id as opening_id, s.title, p.apprentice_id, (r.judged -> 'marks' ->> 'earned')::int as earned,
       (r.judged -> 'marks' ->> 'possible')::int as possible
from screen_runs r join screen_openings o on o.id = r.opening_id join sheets s on s.id = o.sheet_id
join paper_calls pc on pc.id = r.paper_call_id join papers p on p.id = pc.paper_id
where r.school_id = :school_id and s.class_id = :class_id and o.mode = 'exam' and r.judged is not null order by o.id, r.id;

-- name: screen_of_apprentice
-- Everything of one student's calls on screen.
select r.id, r.began_at, r.finished_at, r.judged, o.mode, s.title, pc.position from screen_runs r
join screen_openings o on o.id = r.opening_id join sheets s on s.id = o.sheet_id
join paper_calls pc on pc.id = r.paper_call_id join papers p on p.id = pc.paper_id
where r.school_id = :school_id and p.apprentice_id = :apprentice_id order by r.id;

-- name: screen_steps_told
-- The steps of a run with the hour of each.
select number, at, kind, data from screen_steps where run_id = :run_id order by number;
