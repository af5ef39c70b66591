-- name: sheet_list
-- Sheets of a school, newest first, with how far marking is.
select s.id, s.title, s.units, s.status, s.done, s.total, s.problem, s.created_at, s.paper, s.large,
       s.released_at is not null as released, s.class_id, c.name as class_name,
       (select count(*) from sheet_calls k where k.sheet_id = s.id)::int as calls,
       (select count(*) from papers p where p.sheet_id = s.id)::int as papers,
       (select count(distinct p.id) from papers p join paper_calls pc on pc.paper_id = p.id
        join marks m on m.paper_call_id = pc.id where p.sheet_id = s.id)::int as marked
from sheets s join classes c on c.id = s.class_id
where s.school_id = :school_id order by s.id desc;

-- name: sheet_get^
-- One sheet, with what of it is printed and still true.
select s.*, c.name as class_name, sc.name as school, sc.time_zone,
       s.released_at is not null as released, s.printing,
       (select coalesce(array_agg(d.kind order by d.kind), '{}') from documents d where d.sheet_id = s.id and (d.kind <> 'feedback'
        or d.created_at > (select max(m.marked_at) from marks m join paper_calls pc on pc.id = m.paper_call_id
                           join papers p on p.id = pc.paper_id where p.sheet_id = s.id))) as printed,
       (select count(*) from sheet_calls k where k.sheet_id = s.id)::int as calls,
       (select count(*) from papers p where p.sheet_id = s.id)::int as papers,
       (select count(distinct p.id) from papers p join paper_calls pc on pc.paper_id = p.id
        join marks m on m.paper_call_id = pc.id where p.sheet_id = s.id)::int as marked
from sheets s join classes c on c.id = s.class_id join schools sc on sc.id = s.school_id
where s.school_id = :school_id and s.id = :id;

-- name: sheet_add^
-- Add a sheet to be built.
insert into sheets (school_id, class_id, title, units, seed, total, status, paper, large, solver_version, table_hash, rubric_version,
                    created_by)
values (:school_id, :class_id, :title, :units, :seed, :total, :status, :paper, :large, :solver_version, :table_hash, :rubric_version,
        :user_id)
returning id;

-- name: sheet_put!
-- Change a draft.
update sheets set class_id = :class_id, title = :title, units = :units, paper = :paper, large = :large, problem = null
where school_id = :school_id and id = :id and status = 'draft';

-- name: sheet_hold^
-- Hold a sheet while it changes.
select id, status, class_id, units, seed, printing, drawn_ahead, now() as read_at from sheets where school_id = :school_id and id = :id for no key update;

-- name: sheet_share^
-- Keep the rules of a sheet and what its rigs read from changing while a paper is marked; any number of markers may.
select id from sheets where id = :id for share;

-- name: sheet_status!
-- Say how a sheet stands.
update sheets set status = :status, total = coalesce(:total, total) where id = :id;

-- name: sheet_printing!
-- Say that a ready sheet is printed again, how far, or that it no longer is.
update sheets set printing = :printing, done = :done, total = greatest(:total, 1) where id = :id and status = 'ready';

-- name: sheet_printed_so_far^
-- Say how far printing again is, and hear whether somebody wants it stopped.
update sheets set done = :done, total = greatest(:total, 1) where id = :id returning printing;

-- name: sheet_stop_printing!
-- Ask the job that prints a sheet again to stop.
update sheets set printing = 'stop' where id = :id and printing = 'on';

-- name: sheet_seed!
-- Other draws for a sheet that could not be made.
update sheets set seed = :seed where id = :id;

-- name: sheet_delete!
-- Forget a draft.
with calls as (delete from sheet_calls where sheet_id = :id), papers as (delete from documents where sheet_id = :id)
delete from sheets where school_id = :school_id and id = :id and status = 'draft';

-- name: sheet_release!
-- Let apprentices see their feedback, or take it back.
update sheets set released_at = case when :released then coalesce(released_at, now()) end where school_id = :school_id and id = :id;

-- name: sheet_calls_clear!
-- Take every item off a draft.
delete from sheet_calls where sheet_id = :sheet_id;

-- name: sheet_rules!
-- Keep the rules of one call.
update sheet_calls set rules = :rules where sheet_id = :sheet_id and position = :position;

-- name: sheet_call_add!
-- Put a scenario version on a sheet.
insert into sheet_calls (school_id, sheet_id, position, scenario_version_id, data)
values (:school_id, :sheet_id, :position, :version_id, :data);

-- name: sheet_call_list
-- The scenario versions of a sheet in order.
select k.position, k.data, k.rules, v.body, v.version, v.scenario_id, r.level
from sheet_calls k left join scenario_versions v on v.id = k.scenario_version_id left join scenario_proofs r on r.version_id = v.id
where k.sheet_id = :sheet_id order by k.position;

-- name: sheet_progress!
-- Say how far the job is.
update sheets set status = case when status = 'cancelling' and :status = 'building' then status else :status end,
       done = :done, problem = :problem
where id = :id;

-- name: sheet_ready!
-- The sheet is built.
update sheets set status = 'ready', done = total, problem = null, ready_at = now() where id = :id;

-- name: sheet_clear!
-- Drop what an unfinished build left behind.
with old as (select id from papers where sheet_id = :sheet_id),
     calls as (delete from paper_calls where paper_id in (select id from old) returning id)
delete from papers where sheet_id = :sheet_id and (select count(*) from calls) >= 0;

-- name: drawn_add!
-- Keep a call that was drawn until the sheet is made.
insert into drawn_calls (school_id, sheet_id, position, person, body, drawn_from)
values (:school_id, :sheet_id, :position, :person, :body, :drawn_from)
on conflict (sheet_id, position, person)
do update set body = excluded.body, drawn_from = excluded.drawn_from, drawn_at = now();

-- name: drawn_list
-- Calls that were drawn before the sheet was issued, or before its job was interrupted.
select position, person, body, drawn_from from drawn_calls
where sheet_id = :sheet_id and (cast(:person as int) is null or person = :person);

-- name: drawn_count^
-- How many calls of a draft are drawn from what it is made of now.
select count(*)::int as drawn from drawn_calls
where sheet_id = :sheet_id and person < :people and (drawn_from = :of_all
    or (position, drawn_from) in (select * from unnest(cast(:positions as int[]), cast(:stamps as text[]))));

-- name: sheet_drawn_ahead!
-- Say whether a draft is drawn, all of it, or what stands in the way.
update sheets set drawn_ahead = :drawn_ahead, problem = :problem where id = :id and status = 'draft';

-- name: drawn_clear!
-- The sheet is made, or will be made of something else.
delete from drawn_calls where sheet_id = :sheet_id;

-- name: sheet_pieces^
-- How many calls a sheet is of, over everybody who is in its class.
select (select count(*) from sheet_calls where sheet_id = :sheet_id)::int
     * (select count(*) from apprentices a join sheets s on s.class_id = a.class_id
        where s.id = :sheet_id and a.left_at is null)::int as pieces;

-- name: jobs_open^
-- Sheets of a school that wait or are being made.
select count(*)::int as open from procrastinate_jobs
where status in ('todo', 'doing') and queue_name <> 'ahead' and args ->> 'school_id' = (:school_id)::text;

-- name: paper_add^
-- Add one apprentice's paper.
insert into papers (school_id, sheet_id, apprentice_id, code, person, attempt)
values (:school_id, :sheet_id, :apprentice_id, :code, :person, :attempt) returning id;

-- name: paper_next^
-- The next number for draws on a sheet, and the next attempt of an apprentice.
select (select coalesce(max(person), -1) + 1 from papers where sheet_id = :sheet_id) as person,
       (select coalesce(max(attempt), 0) + 1 from papers where sheet_id = :sheet_id and apprentice_id = :apprentice_id) as attempt,
       (select min(person) from papers where sheet_id = :sheet_id and apprentice_id = :apprentice_id) as own;

-- name: code_taken^
-- Whether a code is used in the school.
select exists (select 1 from papers where school_id = :school_id and code = :code) as taken;

-- name: paper_call_add!
-- Freeze one call of a paper.
insert into paper_calls (school_id, paper_id, position, body, possible)
values (:school_id, :paper_id, :position, :body, :possible);

-- name: paper_list
-- Papers of a sheet in class order.
select p.id, p.code, a.name, p.attempt, a.id as apprentice_id
from papers p join apprentices a on a.id = p.apprentice_id
where p.school_id = :school_id and p.sheet_id = :sheet_id order by a.position, p.attempt;

-- name: paper_by_code^
-- One paper by its printed code.
select p.id, p.code, p.attempt, a.name, a.id as apprentice_id, a.user_id, a.language, p.sheet_id, s.title as sheet_title, s.status, s.released_at
from papers p join apprentices a on a.id = p.apprentice_id join sheets s on s.id = p.sheet_id
where p.school_id = :school_id and p.code = :code;

-- name: paper_call_list
-- Frozen calls of a paper.
select id, position, body, possible from paper_calls where paper_id = :paper_id order by position;

-- name: document_put!
-- Keep a PDF; it is as old as the moment its rows were read.
insert into documents (school_id, sheet_id, kind, pdf, created_at)
values (:school_id, :sheet_id, :kind, :pdf, coalesce(cast(:read_at as timestamptz), now()))
on conflict (sheet_id, kind) do update set pdf = excluded.pdf, created_at = excluded.created_at;

-- name: document_get^
-- One PDF.
select d.pdf from documents d where d.school_id = :school_id and d.sheet_id = :sheet_id and d.kind = :kind;

-- name: papers_of_user
-- Papers of whoever logs in as an apprentice, newest first; only those whose feedback is released.
select p.code, p.attempt, s.title, s.created_at
from papers p join apprentices a on a.id = p.apprentice_id join sheets s on s.id = p.sheet_id
where p.school_id = :school_id and a.user_id = :user_id and s.released_at is not null
order by s.id desc, p.attempt desc;

-- name: documents_clear!
-- Forget what was printed of a sheet.
delete from documents where sheet_id = :sheet_id;

-- name: sheet_state^
-- How a sheet stands.
select status from sheets where id = :id;

-- name: sheet_points
-- Points of each call of a sheet, as most papers have them.
select pc.position, max(pc.possible) as points
from paper_calls pc join papers p on p.id = pc.paper_id where p.sheet_id = :sheet_id group by pc.position;

-- name: sheet_worked_on^
-- How many answers, marks and rig readings hang on a sheet.
select (select count(*) from answers x join paper_calls c on c.id = x.paper_call_id join papers p on p.id = c.paper_id
        where p.sheet_id = :sheet_id)
     + (select count(*) from marks m join paper_calls c on c.id = m.paper_call_id join papers p on p.id = c.paper_id
        where p.sheet_id = :sheet_id)
     + (select count(*) from measurements where sheet_id = :sheet_id) as pieces;

-- name: document_at_hand^
-- Whether a document of a sheet is kept.
select 1 as there from documents where school_id = :school_id and sheet_id = :sheet_id and kind = :kind;
