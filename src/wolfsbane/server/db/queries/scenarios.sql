-- name: scenario_list
-- Newest version of every scenario that is not archived.
select distinct on (s.id) s.id, v.id as version_id, v.version, v.body, v.sha256, v.created_at
from scenarios s join scenario_versions v on v.scenario_id = s.id
where s.school_id = :school_id and s.archived_at is null
order by s.id, v.version desc;

-- name: scenario_get^
-- Newest version of one scenario.
select s.id, v.id as version_id, v.version, v.body, v.sha256, v.created_at
from scenarios s join scenario_versions v on v.scenario_id = s.id
where s.school_id = :school_id and s.id = :id and s.archived_at is null
order by v.version desc limit 1;

-- name: scenario_add^
-- Add a scenario without a version yet.
insert into scenarios (school_id, created_by) values (:school_id, :user_id) returning id;

-- name: scenario_lock^
-- Hold a scenario while a version is added; null when it is not there.
select id from scenarios where school_id = :school_id and id = :id and archived_at is null for update;

-- name: scenario_version_add^
-- Add the next version.
insert into scenario_versions (school_id, scenario_id, version, schema_version, body, sha256, created_by)
values (:school_id, :scenario_id,
        (select coalesce(max(version), 0) + 1 from scenario_versions where scenario_id = :scenario_id),
        :schema_version, :body, :sha256, :user_id)
returning id;

-- name: scenario_archive!
-- Hide a scenario; its versions stay for the sheets that use them.
update scenarios set archived_at = now() where school_id = :school_id and id = :id and archived_at is null;
