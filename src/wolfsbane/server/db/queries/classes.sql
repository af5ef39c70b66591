-- name: class_list
-- Classes of a school with their size.
select c.id, c.name, count(a.id)::int as size
from classes c left join apprentices a on a.class_id = c.id
where c.school_id = :school_id group by c.id order by c.name;

-- name: class_get^
-- One class.
select id, name from classes where school_id = :school_id and id = :id;

-- name: class_add^
-- Add a class.
insert into classes (school_id, name) values (:school_id, :name) returning id;

-- name: apprentice_add!
-- Add an apprentice at the end of a class.
insert into apprentices (school_id, class_id, position, name)
values (:school_id, :class_id,
        (select coalesce(max(position), 0) + 1 from apprentices where class_id = :class_id), :name);

-- name: apprentice_list
-- The apprentices of a class in order.
select id, name, position from apprentices where school_id = :school_id and class_id = :class_id order by position;
