-- name: scenario_list
-- Newest version of every scenario a user may see, with its proof, its owner and how many sheets used it.
select distinct on (s.id) s.id, s.shared, s.archived_at, s.created_by, u.name as owner, v.id as version_id, v.version, v.body, v.sha256,
       v.created_at, p.level, p.one_answer, p.sentence,
       (select count(distinct k.sheet_id) from sheet_calls k join scenario_versions w on w.id = k.scenario_version_id
        where w.scenario_id = s.id)::int as sheets
from scenarios s join scenario_versions v on v.scenario_id = s.id join users u on u.id = s.created_by
left join scenario_proofs p on p.version_id = v.id
where s.school_id = :school_id and (s.shared or s.created_by = :user_id)
order by s.id, v.version desc;

-- name: scenario_get^
-- Newest version of one scenario a user may see, not archived.
select s.id, s.shared, s.archived_at, s.created_by, u.name as owner, v.id as version_id, v.version, v.body, v.sha256, v.created_at,
       p.level, p.one_answer, p.sentence,
       (select count(distinct k.sheet_id) from sheet_calls k join scenario_versions w on w.id = k.scenario_version_id
        where w.scenario_id = s.id)::int as sheets
from scenarios s join scenario_versions v on v.scenario_id = s.id join users u on u.id = s.created_by
left join scenario_proofs p on p.version_id = v.id
where s.school_id = :school_id and s.id = :id and s.archived_at is null and (s.shared or s.created_by = :user_id)
order by v.version desc limit 1;

-- name: scenario_add^
-- Add a scenario without a version yet.
insert into scenarios (school_id, created_by, shared) values (:school_id, :user_id, :shared) returning id;

-- name: scenario_lock^
-- Hold a scenario of one's school that one may see while it is changed; null when it is not there.
select id, created_by, archived_at from scenarios
where school_id = :school_id and id = :id and (shared or created_by = :user_id) for update;

-- name: scenario_version_add^
-- Add the next version.
insert into scenario_versions (school_id, scenario_id, version, schema_version, body, sha256, created_by)
values (:school_id, :scenario_id,
        (select coalesce(max(version), 0) + 1 from scenario_versions where scenario_id = :scenario_id),
        :schema_version, :body, :sha256, :user_id)
returning id;

-- name: scenario_proof_put!
-- Keep what the proof said of a version.
insert into scenario_proofs (version_id, school_id, solver_version, level, one_answer, sentence)
values (:version_id, :school_id, :solver_version, :level, :one_answer, :sentence)
on conflict (version_id) do update set solver_version = excluded.solver_version, level = excluded.level,
    one_answer = excluded.one_answer, sentence = excluded.sentence, proved_at = now();

-- name: scenario_versions_of
-- Every version of a scenario, oldest first, with its writer and the sheets issued from it.
select v.version, v.body, v.created_at, u.name as writer,
       (select count(*) from sheet_calls k where k.scenario_version_id = v.id)::int as sheets
from scenario_versions v join users u on u.id = v.created_by
where v.school_id = :school_id and v.scenario_id = :id order by v.version;

-- name: scenario_archive!
-- Hide a scenario; its versions stay for the sheets that use them.
update scenarios set archived_at = now() where school_id = :school_id and id = :id and archived_at is null;

-- name: scenario_restore!
-- Bring a hidden scenario back.
update scenarios set archived_at = null where school_id = :school_id and id = :id;

-- name: scenario_share!
-- Let the whole school see a scenario, or only its maker.
update scenarios set shared = :shared where school_id = :school_id and id = :id;

-- name: scenario_by_hash^
-- A scenario a user may see, not archived, whose newest version is this body.
select s.id from scenarios s
join lateral (select v.sha256 from scenario_versions v where v.scenario_id = s.id order by v.version desc limit 1) n on true
where s.school_id = :school_id and s.archived_at is null and (s.shared or s.created_by = :user_id)
  and n.sha256 = :sha256
order by s.id limit 1;
