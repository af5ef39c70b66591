-- Calls on screen: a sheet opened on screen, who plays which of its frozen calls, and every step of it.

create table screen_openings (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    sheet_id bigint not null references sheets on delete cascade,
    mode text not null check (mode in ('practice', 'exam')),
    -- limit of an exam on the clock on the wall; null without one
    minutes float,
    rubric text not null,
    points jsonb not null,
    opened_by bigint not null references users,
    opened_at timestamptz not null default now(),
    closed_at timestamptz,
    -- from then on everybody sees their marks
    told_at timestamptz
);
-- one at a time
create unique index screen_open on screen_openings (sheet_id) where closed_at is null;

-- Who has longer in an exam: so many times the limit.
create table screen_allowances (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    opening_id bigint not null references screen_openings on delete cascade,
    apprentice_id bigint not null references apprentices on delete cascade,
    factor float not null check (factor between 1 and 5),
    unique (opening_id, apprentice_id)
);

create table screen_runs (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    opening_id bigint not null references screen_openings on delete cascade,
    paper_call_id bigint not null references paper_calls on delete cascade,
    began_at timestamptz not null default now(),
    finished_at timestamptz,
    solver_version text not null,
    -- the expert's way and the marks, worked out once it is finished
    judged jsonb,
    unique (opening_id, paper_call_id)
);
create index on screen_runs (paper_call_id);

create table screen_steps (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    run_id bigint not null references screen_runs on delete cascade,
    number int not null,
    -- given by the device that made it: sent twice, it is kept once
    uid text not null,
    at timestamptz not null default now(),
    kind text not null,
    data jsonb not null,
    shown jsonb,
    unique (run_id, number),
    unique (run_id, uid)
);
