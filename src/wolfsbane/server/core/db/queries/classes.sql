-- name: class_list
-- Classes of a school with their size, either the archived ones or the others.
select c.id, c.name, c.term, c.archived_at is not null as archived,
       count(a.id) filter (where a.left_at is null and a.erase_at is null)::int as size
from classes c left join apprentices a on a.class_id = c.id
where c.school_id = :school_id and (c.archived_at is not null) = :archived
group by c.id order by c.term desc, c.name;

-- name: class_get^
-- One class.
select id, name, term, archived_at is not null as archived from classes where school_id = :school_id and id = :id;

-- name: class_add^
-- Add a class.
insert into classes (school_id, name, term) values (:school_id, :name, :term) returning id;

-- name: class_put!
-- Change a class.
update classes set name = :name, term = :term,
       archived_at = case when :archived then coalesce(archived_at, now()) end
where school_id = :school_id and id = :id;

-- name: apprentice_add^
-- Add an apprentice at the end of a class.
insert into apprentices (school_id, class_id, position, name, number, group_name)
values (:school_id, :class_id,
        (select coalesce(max(position), 0) + 1 from apprentices where class_id = :class_id), :name, :number, :group_name)
returning id;

-- name: apprentice_list
-- The apprentices of a class in order; those who left come with a date.
select a.id, a.name, a.position, a.number, a.group_name, a.left_at is not null as gone, a.erase_at, u.login,
       a.language
from apprentices a left join users u on u.id = a.user_id
where a.school_id = :school_id and a.class_id = :class_id order by a.position;

-- name: apprentice_get^
-- One apprentice with the class.
select a.id, a.class_id, a.name, a.position, a.number, a.group_name, a.left_at is not null as gone, a.user_id, u.login,
       c.name as class_name, c.term, a.language
from apprentices a join classes c on c.id = a.class_id left join users u on u.id = a.user_id
where a.school_id = :school_id and a.id = :id;

-- name: apprentice_of_user^
select id, name, class_id from apprentices where school_id = :school_id and user_id = :user_id and left_at is null
order by id desc limit 1;

-- name: apprentice_put!
-- Change an apprentice.
update apprentices set name = :name, number = :number, group_name = :group_name, language = :language,
       left_at = case when :gone then coalesce(left_at, now()) end
where school_id = :school_id and id = :id;

-- name: apprentice_left!
-- Write down that an apprentice left.
update apprentices set left_at = coalesce(left_at, now()) where school_id = :school_id and id = :id;

-- name: apprentice_move!
-- Put an apprentice at the end of another class; papers stay with the sheets they belong to.
update apprentices set class_id = :class_id,
       position = (select coalesce(max(position), 0) + 1 from apprentices where class_id = :class_id)
where school_id = :school_id and id = :id;

-- name: apprentice_erase_later!
-- Say that an apprentice is to be erased in some minutes, or is not.
update apprentices set erase_at = case when :erasing then now() + make_interval(mins => :minutes) end
where school_id = :school_id and id = :id;

-- name: apprentices_due
-- Apprentices of any school whose time to be erased has come.
select a.school_id, a.id from apprentices a where a.erase_at <= now() order by a.id;

-- name: class_movers
-- Those who have a paper of this class and are in another class now.
select distinct a.id, a.name, a.number, a.group_name, false as gone, c.name as class_name
from papers p join sheets s on s.id = p.sheet_id join apprentices a on a.id = p.apprentice_id join classes c on c.id = a.class_id
where s.school_id = :school_id and s.class_id = :class_id and a.class_id <> :class_id order by a.name;

-- name: apprentice_link!
-- Give an apprentice a log-in; it reads in their language.
with linked as (
  update apprentices set user_id = :user_id where school_id = :school_id and id = :id returning language
)
update users u set language = l.language from linked l where u.school_id = :school_id and u.id = :user_id;

-- name: apprentice_reads!
-- The log-in of an apprentice reads in their language.
update users u set language = a.language from apprentices a
where a.school_id = :school_id and a.id = :id and u.school_id = :school_id and u.id = a.user_id;

-- name: apprentice_papers
-- Papers of one apprentice, oldest first.
select p.id, p.code, p.attempt, s.id as sheet_id, s.title, s.created_at, s.released_at
from papers p join sheets s on s.id = p.sheet_id
where p.school_id = :school_id and p.apprentice_id = :id order by s.id, p.attempt;

-- name: class_sheets_hold
-- Hold every sheet of an apprentice's class, and those of an older class with a paper of theirs, so that nothing is
-- printed with a name on it that is just being erased.
select id, title, status from sheets
where school_id = :school_id and (class_id = :class_id or id in (select sheet_id from papers where apprentice_id = :apprentice_id))
order by id for no key update;

-- name: apprentice_erase!
-- Everything that was kept of an apprentice; sheets lose the printed documents with the name on them.
with mine as (select id, sheet_id from papers where school_id = :school_id and apprentice_id = :id),
     calls as (select id from paper_calls where paper_id in (select id from mine)),
     m as (delete from marks where paper_call_id in (select id from calls)),
     x as (delete from answers where paper_call_id in (select id from calls)),
     d as (delete from documents where sheet_id in (select sheet_id from mine))
select count(*) from mine;

-- name: apprentice_erase_calls!
-- The frozen calls of an apprentice whose answers are gone.
delete from paper_calls where paper_id in (select id from papers where school_id = :school_id and apprentice_id = :id);

-- name: apprentice_erase_papers!
-- The papers of an apprentice, and what the audit says of them.
delete from papers where school_id = :school_id and apprentice_id = :id;

-- name: apprentice_delete!
-- The apprentice.
delete from apprentices where school_id = :school_id and id = :id;
