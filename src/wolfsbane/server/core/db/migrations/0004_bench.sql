-- The library: who sees a scenario, what its proof said; schools of practice of one's own; cases on a projector.

-- Until now everybody of a school saw every scenario; new ones are their maker's until shared.
alter table scenarios add column shared boolean not null default true;
alter table scenarios alter column shared set default false;

-- What the proof said of a version. Apart from the version, which never changes: a newer solver may prove it again.
create table scenario_proofs (
    version_id bigint primary key references scenario_versions,
    school_id bigint not null references schools,
    solver_version text not null,
    level int,
    one_answer boolean,
    sentence text not null,
    proved_at timestamptz not null default now()
);

create table own_practices (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    practice_id text not null,
    name text not null,
    body jsonb not null,
    created_by bigint not null references users,
    created_at timestamptz not null default now(),
    constraint practice_name_taken unique (school_id, practice_id)
);

-- A case put up for a class. The token opens what is revealed and nothing else; only its hash is kept.
create table projections (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    created_by bigint not null references users,
    token_hash text not null unique,
    bench jsonb not null,
    parts jsonb not null,
    step text not null default 'look',
    shown jsonb not null default '["story"]',
    tests jsonb not null default '[]',
    revision int not null default 1,
    created_at timestamptz not null default now(),
    expires_at timestamptz not null,
    ended_at timestamptz
);
