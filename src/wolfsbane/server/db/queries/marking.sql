-- name: answer_put!
-- Keep an answer as it was written.
insert into answers (school_id, paper_call_id, question_id, raw, unit, entered_by)
values (:school_id, :paper_call_id, :question_id, :raw, :unit, :user_id)
on conflict (paper_call_id, question_id)
do update set raw = excluded.raw, unit = excluded.unit, entered_by = excluded.entered_by, entered_at = now();

-- name: answer_list
-- Answers of a paper.
select x.paper_call_id, x.question_id, x.raw
from answers x join paper_calls pc on pc.id = x.paper_call_id where pc.paper_id = :paper_id;

-- name: mark_put!
-- Keep a mark with its reason.
insert into marks (school_id, paper_call_id, question_id, points, earned, code, params, rubric_version)
values (:school_id, :paper_call_id, :question_id, :points, :earned, :code, :params, :rubric_version)
on conflict (paper_call_id, question_id)
do update set points = excluded.points, earned = excluded.earned, code = excluded.code, params = excluded.params,
              rubric_version = excluded.rubric_version, marked_at = now();

-- name: mark_list
-- Marks of a paper.
select m.paper_call_id, m.question_id, m.points, m.earned, m.code, m.params
from marks m join paper_calls pc on pc.id = m.paper_call_id where pc.paper_id = :paper_id;

-- name: sheet_results
-- One row per paper, call and question of a sheet, with the mark where there is one.
select p.code, a.name, pc.position, q.value ->> 'id' as question_id, m.points, m.earned, m.code as reason, m.params,
       x.raw
from papers p
join apprentices a on a.id = p.apprentice_id
join paper_calls pc on pc.paper_id = p.id
cross join lateral jsonb_array_elements(pc.body -> 'questions') with ordinality as q (value, n)
left join marks m on m.paper_call_id = pc.id and m.question_id = q.value ->> 'id'
left join answers x on x.paper_call_id = pc.id and x.question_id = q.value ->> 'id'
where p.school_id = :school_id and p.sheet_id = :sheet_id
order by a.position, pc.position, q.n;
