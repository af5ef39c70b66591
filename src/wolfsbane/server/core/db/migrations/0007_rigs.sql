-- Trainer rigs: what they are, what their loggers showed, what was set on them and found out about them.

create table rigs (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    name text not null,
    body jsonb not null,
    -- how the columns of its CSV files were matched last
    columns jsonb not null default '{}',
    -- other loggers send samples with this; only its hash is kept
    token_hash text unique,
    created_by bigint references users,
    created_at timestamptz not null default now(),
    archived_at timestamptz,
    constraint rig_name_taken unique (school_id, name)
);

-- One row a second. ``shown`` holds SI values in the fixed order of points, null where nothing was read; ``clock_s`` is
-- the rig's own clock. Rows come in the order of time and are never changed.
create table rig_samples (
    rig_id bigint not null references rigs on delete cascade,
    at timestamptz not null,
    clock_s double precision not null,
    shown real[] not null,
    primary key (rig_id, at)
);
create index rig_samples_at on rig_samples using brin (at);

-- What is left of samples after a term: means and scatter of a minute.
create table rig_minutes (
    rig_id bigint not null references rigs on delete cascade,
    at timestamptz not null,
    clock_s double precision not null,
    samples int not null,
    mean real[] not null,
    scatter real[] not null,
    primary key (rig_id, at)
);

-- What happened: gap (no readings from - to, and why), set (a device was moved), undone, baseline, frozen, clock.
create table rig_events (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    rig_id bigint not null references rigs on delete cascade,
    at timestamptz not null default now(),
    kind text not null,
    data jsonb not null default '{}',
    user_id bigint references users
);
create index rig_events_rig on rig_events (rig_id, at);

-- Fitted to runs with nothing planted; the newest one counts.
create table rig_baselines (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    rig_id bigint not null references rigs on delete cascade,
    made_at timestamptz not null default now(),
    from_at timestamptz not null,
    to_at timestamptz not null,
    solver text not null,
    body jsonb not null,
    made_by bigint references users
);

-- A device set to a position and measured: what it planted there.
create table rig_settings (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    rig_id bigint not null references rigs on delete cascade,
    measured_at timestamptz not null default now(),
    device text not null,
    position double precision not null,
    fault text not null,
    severity double precision not null,
    spread double precision not null,
    square double precision not null,
    measured_by bigint references users
);

-- The logger's last word on each rig: whether it answers, and what its readings say.
create table rig_watch (
    rig_id bigint primary key references rigs on delete cascade,
    state text not null,
    told text not null default '',
    since timestamptz not null default now(),
    seen_at timestamptz,
    clock_s double precision,
    shown real[],
    watch jsonb not null default '{}'
);

-- A paper may be marked against what a rig showed while its apprentice was there, instead of against one snapshot.
alter table measurements add column paper_id bigint references papers on delete cascade;
alter table measurements add column rig_id bigint references rigs on delete set null;
alter table measurements add column read_at timestamptz;
create index measurements_of_a_paper on measurements (paper_id, position, id) where paper_id is not null;
