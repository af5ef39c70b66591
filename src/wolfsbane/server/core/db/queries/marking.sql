-- name: paper_call_hold^
-- Hold one call of a paper while its answers change.
select id, position, body from paper_calls where paper_id = :paper_id and position = :position for no key update;

-- name: answer_put!
-- Keep an answer as it was written; every change counts up.
insert into answers (school_id, paper_call_id, question_id, raw, unit, source, entered_by)
values (:school_id, :paper_call_id, :question_id, :raw, :unit, :source, :user_id)
on conflict (paper_call_id, question_id)
do update set raw = excluded.raw, unit = excluded.unit, source = excluded.source, entered_by = excluded.entered_by, entered_at = now(),
              revision = answers.revision + 1;

-- name: answer_list
-- Answers of a paper.
select x.paper_call_id, x.question_id, x.raw, x.revision, u.name as writer
from answers x join paper_calls pc on pc.id = x.paper_call_id join users u on u.id = x.entered_by where pc.paper_id = :paper_id;

-- name: mark_put!
-- Keep a mark with its reason.
-- The clock and not the start of the transaction: what is printed of the marks is compared with it.
insert into marks (school_id, paper_call_id, question_id, points, earned, code, params, suggested, overridden, rubric_version, marked_at)
values (:school_id, :paper_call_id, :question_id, :points, :earned, :code, :params, :suggested, :overridden, :rubric_version,
        clock_timestamp())
on conflict (paper_call_id, question_id)
do update set points = excluded.points, earned = excluded.earned, code = excluded.code, params = excluded.params,
              suggested = excluded.suggested, overridden = excluded.overridden,
              rubric_version = excluded.rubric_version, marked_at = excluded.marked_at;

-- name: mark_list
-- Marks of a paper.
select m.paper_call_id, m.question_id, m.points, m.earned, m.code, m.params, m.suggested, m.overridden
from marks m join paper_calls pc on pc.id = m.paper_call_id where pc.paper_id = :paper_id;

-- name: answered_calls
-- Calls of a sheet at one position that somebody has typed answers for, with the paper.
select pc.id, pc.paper_id, pc.body, p.code, a.name
from paper_calls pc join papers p on p.id = pc.paper_id join apprentices a on a.id = p.apprentice_id
where pc.school_id = :school_id and p.sheet_id = :sheet_id and pc.position = :position
  and exists (select 1 from answers x where x.paper_call_id = pc.id)
order by a.position, p.attempt for no key update of pc;

-- name: call_answers
-- Answers of one call.
select question_id, raw, revision from answers where paper_call_id = :paper_call_id;

-- name: call_marks
-- Marks of one call.
select question_id, points, earned, code, params, suggested, overridden, rubric_version from marks where paper_call_id = :paper_call_id;

-- name: measurement_newest^
-- What a rig read, newest.
select m.id, m.readings, m.warnings, m.body, m.entered_at, u.name as writer
from measurements m join users u on u.id = m.entered_by
where m.school_id = :school_id and m.sheet_id = :sheet_id and m.position = :position and m.paper_id is null
order by m.id desc limit 1;

-- name: measurements_of_papers
-- What a rig showed while each apprentice was at it, the newest of each paper.
select distinct on (m.paper_id) m.paper_id, m.body, m.read_at, m.readings, r.name as rig
from measurements m left join rigs r on r.id = m.rig_id
where m.school_id = :school_id and m.sheet_id = :sheet_id and m.position = :position and m.paper_id is not null
order by m.paper_id, m.id desc;

-- name: measurement_add!
-- Keep what a rig read.
insert into measurements (school_id, sheet_id, position, readings, warnings, body, entered_by, paper_id, rig_id, read_at)
values (:school_id, :sheet_id, :position, :readings, :warnings, :body, :user_id, :paper_id, :rig_id, :read_at);

-- name: sheet_results
-- One row per paper, call and question of a sheet, with the mark where there is one.
select p.code, p.attempt, a.name, a.id as apprentice_id, pc.id as paper_call_id, pc.position, pc.possible, m.question_id, m.points, m.earned,
       m.code as reason, m.params, m.suggested, m.overridden, x.raw
from papers p
join apprentices a on a.id = p.apprentice_id
join paper_calls pc on pc.paper_id = p.id
left join marks m on m.paper_call_id = pc.id
left join answers x on x.paper_call_id = pc.id and x.question_id = m.question_id
where p.school_id = :school_id and p.sheet_id = :sheet_id
order by a.position, p.attempt, pc.position, m.id;

-- name: sheet_bodies
-- The frozen calls of every paper of a sheet.
select p.id as paper_id, p.code, p.attempt, p.person, a.id as apprentice_id, a.name, a.group_name, pc.id, pc.position, pc.body,
       a.language
from papers p join apprentices a on a.id = p.apprentice_id join paper_calls pc on pc.paper_id = p.id
where p.school_id = :school_id and p.sheet_id = :sheet_id order by a.position, p.attempt, pc.position;

-- name: class_marks
-- Every mark of a class over the term, with what the call trains; the apprentice's newest attempt of each sheet counts.
select p.apprentice_id, s.id as sheet_id, s.title, pc.position, m.question_id, m.points, m.earned, m.code, x.raw, m.params,
       pc.body -> 'key' -> 'faults' as faults, pc.body -> 'key' -> 'difficulty' ->> 'level' as level,
       (pc.body -> 'key' -> 'difficulty' ->> 'success')::float as success,
       pc.body -> 'drill' ->> 'kind' as drill,
       case when pc.body ? 'situation' then pc.body ->> 'kind' end as situation,
       case when m.question_id = 'fault' then pc.body -> 'choices' -> 'fault' end as choices
from marks m join paper_calls pc on pc.id = m.paper_call_id join papers p on p.id = pc.paper_id
join sheets s on s.id = p.sheet_id left join answers x on x.paper_call_id = pc.id and x.question_id = m.question_id
where s.school_id = :school_id and s.class_id = :class_id
  and p.attempt = (select max(q.attempt) from papers q join paper_calls r on r.paper_id = q.id join marks z on z.paper_call_id = r.id
                   where q.sheet_id = p.sheet_id and q.apprentice_id = p.apprentice_id)
order by s.id, p.apprentice_id, pc.position, m.id;
