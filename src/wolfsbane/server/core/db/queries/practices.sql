-- name: practice_list
-- Schools of practice of one's own, by name.
select practice_id, name, body from own_practices where school_id = :school_id order by name;

-- name: practice_get^
-- One of them.
select practice_id, name, body from own_practices where school_id = :school_id and practice_id = :practice_id;

-- name: practice_put!
-- Keep one, or change it; scenarios that use it keep their copy.
insert into own_practices (school_id, practice_id, name, body, created_by) values (:school_id, :practice_id, :name, :body, :user_id)
on conflict (school_id, practice_id) do update set name = excluded.name, body = excluded.body;

-- name: practice_remove!
-- Forget one; scenarios that use it keep their copy.
delete from own_practices where school_id = :school_id and practice_id = :practice_id;
