-- A lab: a class that goes round the rigs, and a picture of each rig.

-- ``rounds`` are in the order of time, each place (a rig's number, 0 for the desk) -> apprentices there; ``current``
-- counts from 0; ``away`` are apprentices who are not here now.
create table lab_rotations (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    class_id bigint not null references classes on delete cascade,
    minutes int not null,
    seats int not null,
    rigs bigint[] not null,
    away bigint[] not null default '{}',
    rounds jsonb not null,
    current int not null default 0,
    round_began timestamptz not null default now(),
    began_at timestamptz not null default now(),
    began_by bigint references users,
    ended_at timestamptz
);
create unique index lab_rotation_runs on lab_rotations (school_id) where ended_at is null;

create table rig_photos (
    rig_id bigint primary key references rigs on delete cascade,
    school_id bigint not null references schools,
    picture bytea not null,
    taken_at timestamptz not null default now()
);
