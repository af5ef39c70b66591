-- name: sheet_list
-- Sheets of a school, newest first, with how far marking is.
select s.id, s.title, s.units, s.status, s.done, s.total, s.problem, s.created_at, c.name as class_name,
       (select count(*) from sheet_calls k where k.sheet_id = s.id)::int as calls,
       (select count(*) from papers p where p.sheet_id = s.id)::int as papers,
       (select count(distinct p.id) from papers p join paper_calls pc on pc.paper_id = p.id
        join marks m on m.paper_call_id = pc.id where p.sheet_id = s.id)::int as marked
from sheets s join classes c on c.id = s.class_id
where s.school_id = :school_id order by s.id desc;

-- name: sheet_get^
-- One sheet.
select s.*, c.name as class_name, sc.name as school, sc.time_zone,
       (select count(*) from sheet_calls k where k.sheet_id = s.id)::int as calls
from sheets s join classes c on c.id = s.class_id join schools sc on sc.id = s.school_id
where s.school_id = :school_id and s.id = :id;

-- name: sheet_add^
-- Add a sheet to be built.
insert into sheets (school_id, class_id, title, units, seed, total, solver_version, table_hash, rubric_version, created_by)
values (:school_id, :class_id, :title, :units, :seed, :total, :solver_version, :table_hash, :rubric_version, :user_id)
returning id;

-- name: sheet_call_add!
-- Put a scenario version on a sheet.
insert into sheet_calls (school_id, sheet_id, position, scenario_version_id)
values (:school_id, :sheet_id, :position, :version_id);

-- name: sheet_call_list
-- The scenario versions of a sheet in order.
select k.position, v.body, v.version, v.scenario_id
from sheet_calls k join scenario_versions v on v.id = k.scenario_version_id
where k.sheet_id = :sheet_id order by k.position;

-- name: sheet_progress!
-- Say how far the job is.
update sheets set status = :status, done = :done, problem = :problem where id = :id;

-- name: sheet_ready!
-- The sheet is built.
update sheets set status = 'ready', done = total, problem = null, ready_at = now() where id = :id;

-- name: sheet_clear!
-- Drop what an unfinished build left behind.
with old as (select id from papers where sheet_id = :sheet_id),
     calls as (delete from paper_calls where paper_id in (select id from old) returning id)
delete from papers where sheet_id = :sheet_id and (select count(*) from calls) >= 0;

-- name: paper_add^
-- Add one apprentice's paper.
insert into papers (school_id, sheet_id, apprentice_id, code)
values (:school_id, :sheet_id, :apprentice_id, :code) returning id;

-- name: code_taken^
-- Whether a code is used in the school.
select exists (select 1 from papers where school_id = :school_id and code = :code) as taken;

-- name: paper_call_add!
-- Freeze one call of a paper.
insert into paper_calls (school_id, paper_id, position, body) values (:school_id, :paper_id, :position, :body);

-- name: paper_list
-- Papers of a sheet in class order.
select p.id, p.code, a.name
from papers p join apprentices a on a.id = p.apprentice_id
where p.school_id = :school_id and p.sheet_id = :sheet_id order by a.position;

-- name: paper_by_code^
-- One paper by its printed code.
select p.id, p.code, a.name, p.sheet_id, s.title as sheet_title, s.status
from papers p join apprentices a on a.id = p.apprentice_id join sheets s on s.id = p.sheet_id
where p.school_id = :school_id and p.code = :code;

-- name: paper_call_list
-- Frozen calls of a paper.
select id, position, body from paper_calls where paper_id = :paper_id order by position;

-- name: document_put!
-- Keep a PDF.
insert into documents (school_id, sheet_id, kind, pdf) values (:school_id, :sheet_id, :kind, :pdf)
on conflict (sheet_id, kind) do update set pdf = excluded.pdf, created_at = now();

-- name: document_get^
-- One PDF.
select d.pdf from documents d where d.school_id = :school_id and d.sheet_id = :sheet_id and d.kind = :kind;
