-- name: cylinder_list
select id, name, kind, refrigerant, tare_kg, water_kg, gross_kg, owner, retest_on from cylinders
where school_id = :school_id and archived_at is null order by name;

-- name: cylinder_get^
select id, name, kind, refrigerant, tare_kg, water_kg, gross_kg, owner, retest_on from cylinders
where school_id = :school_id and id = :id and archived_at is null for update;

-- name: cylinder_add^
insert into cylinders (school_id, name, kind, refrigerant, tare_kg, water_kg, gross_kg, owner, retest_on, created_by)
values (:school_id, :name, :kind, :refrigerant, :tare_kg, :water_kg, :gross_kg, :owner, :retest_on, :user_id)
returning id;

-- name: cylinder_change!
update cylinders set name = :name, owner = :owner, retest_on = :retest_on
where school_id = :school_id and id = :id;

-- name: cylinder_weighed!
update cylinders set gross_kg = :gross_kg, refrigerant = :refrigerant where school_id = :school_id and id = :id;

-- name: cylinder_archive!
update cylinders set archived_at = now(), name = name || ' (' || id || ')'
where school_id = :school_id and id = :id and archived_at is null;

-- name: refrigerant_move_add^
insert into refrigerant_moves (school_id, kind, cylinder_id, other_id, rig_id, refrigerant, log_kg, before_kg, after_kg,
    scale_kg, person, why, differences, user_id)
values (:school_id, :kind, :cylinder_id, :other_id, :rig_id, :refrigerant, :log_kg, :before_kg, :after_kg,
    :scale_kg, :person, :why, :differences, :user_id)
returning id;

-- name: refrigerant_moves
select m.id, m.at, m.kind, m.cylinder_id, c.name as cylinder, o.name as other, m.rig_id, r.name as rig, m.refrigerant,
    m.log_kg, m.before_kg, m.after_kg, m.scale_kg, m.person, m.why, m.differences, m.explained, e.name as explained_by,
    u.name as who
from refrigerant_moves m join cylinders c on c.id = m.cylinder_id left join cylinders o on o.id = m.other_id
left join rigs r on r.id = m.rig_id left join users u on u.id = m.user_id left join users e on e.id = m.explained_by
where m.school_id = :school_id and m.at >= :from_at and m.at < :to_at order by m.id desc;

-- name: refrigerant_move_get^
select id, kind, cylinder_id, differences from refrigerant_moves where school_id = :school_id and id = :id;

-- name: refrigerant_explain!
update refrigerant_moves set explained = :explained, explained_by = :user_id
where school_id = :school_id and id = :id and differences <> '[]';

-- name: refrigerant_day_close!
insert into refrigerant_days (school_id, day, closed_by, totals) values (:school_id, :day, :user_id, :totals);

-- name: refrigerant_days
select d.day, d.closed_at, u.name as who, d.totals from refrigerant_days d left join users u on u.id = d.closed_by
where d.school_id = :school_id order by d.day desc limit 200;
