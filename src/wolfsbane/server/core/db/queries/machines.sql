-- name: own_machine_list
-- The school's own machines, by name.
select machine_id, name, tuned, created_at from own_machines where school_id = :school_id order by name;

-- name: own_machine_get^
-- One of them.
select machine_id, name, tuned, created_at from own_machines where school_id = :school_id and machine_id = :machine_id;

-- name: own_machine_add!
-- Keep a tuned machine.
insert into own_machines (school_id, machine_id, name, tuned, created_by) values (:school_id, :machine_id, :name, :tuned, :user_id);

-- name: own_machine_remove!
-- Forget one; scenarios that use it keep their copy.
delete from own_machines where school_id = :school_id and machine_id = :machine_id;
