-- Cylinders of a shop and the log of every ounce.

create table cylinders (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    name text not null,
    kind text not null check (kind in ('new', 'recovery')),
    -- "" in a recovery cylinder that never held any
    refrigerant text not null default '',
    tare_kg double precision not null,
    -- as stamped: what it would hold of water
    water_kg double precision not null,
    -- what it weighed last
    gross_kg double precision not null,
    owner text not null default '',
    retest_on date,
    created_at timestamptz not null default now(),
    created_by bigint references users,
    archived_at timestamptz,
    constraint cylinder_name_taken unique (school_id, name)
);

-- Never changed but for the explanation of a difference; what was wrong is put right by another move.
create table refrigerant_moves (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    at timestamptz not null default now(),
    kind text not null,
    cylinder_id bigint not null references cylinders,
    other_id bigint references cylinders,
    rig_id bigint references rigs on delete set null,
    refrigerant text not null,
    log_kg double precision not null,
    before_kg double precision not null,
    after_kg double precision not null,
    scale_kg double precision,
    person text not null default '',
    why text not null default '',
    differences jsonb not null default '[]',
    explained text not null default '',
    explained_by bigint references users,
    user_id bigint references users
);
create index refrigerant_moves_at on refrigerant_moves (school_id, at);

-- A day that was closed: every difference in it is explained.
create table refrigerant_days (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    day date not null,
    closed_at timestamptz not null default now(),
    closed_by bigint references users,
    totals jsonb not null,
    constraint refrigerant_day_closed unique (school_id, day)
);
