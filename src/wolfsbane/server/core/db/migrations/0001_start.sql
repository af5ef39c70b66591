-- School id on every row; scenario versions and issued calls never change.

create table schools (
    id bigint generated always as identity primary key,
    name text not null unique,
    time_zone text not null default 'UTC',
    created_at timestamptz not null default now()
);

create table users (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    login text not null unique,
    name text not null,
    role text not null check (role in ('instructor', 'apprentice')),
    password_hash text not null,
    created_at timestamptz not null default now()
);

create table sessions (
    token_hash text primary key,
    school_id bigint not null references schools,
    user_id bigint not null references users,
    csrf text not null,
    created_at timestamptz not null default now(),
    expires_at timestamptz not null
);

-- Kept by log-in name whether or not the name exists, so it carries no school.
create table login_attempts (
    id bigint generated always as identity primary key,
    login text not null,
    succeeded boolean not null,
    at timestamptz not null default now()
);
create index login_attempts_recent on login_attempts (login, at);

create table classes (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    name text not null,
    created_at timestamptz not null default now(),
    constraint class_name_taken unique (school_id, name)
);

create table apprentices (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    class_id bigint not null references classes,
    position int not null,
    name text not null,
    unique (class_id, position)
);

create table scenarios (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    created_by bigint not null references users,
    created_at timestamptz not null default now(),
    archived_at timestamptz
);

create table scenario_versions (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    scenario_id bigint not null references scenarios,
    version int not null,
    schema_version int not null,
    body jsonb not null,
    sha256 text not null,
    created_by bigint not null references users,
    created_at timestamptz not null default now(),
    unique (scenario_id, version)
);

create table sheets (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    class_id bigint not null references classes,
    title text not null,
    units text not null check (units in ('us', 'si')),
    seed bigint not null,
    status text not null default 'queued' check (status in ('queued', 'building', 'ready', 'failed')),
    done int not null default 0,
    total int not null,
    problem text,
    solver_version text not null,
    table_hash text not null,
    rubric_version text not null,
    created_by bigint not null references users,
    created_at timestamptz not null default now(),
    ready_at timestamptz
);

create table sheet_calls (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    sheet_id bigint not null references sheets,
    position int not null,
    scenario_version_id bigint not null references scenario_versions,
    unique (sheet_id, position)
);

create table papers (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    sheet_id bigint not null references sheets,
    apprentice_id bigint not null references apprentices,
    code text not null,
    unique (sheet_id, apprentice_id),
    constraint paper_code_taken unique (school_id, code)
);

-- One frozen call: machine parameters, school of practice, rubric, units, readings, key, seed, solver and tables.
create table paper_calls (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    paper_id bigint not null references papers,
    position int not null,
    body jsonb not null,
    unique (paper_id, position)
);

create table answers (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    paper_call_id bigint not null references paper_calls,
    question_id text not null,
    raw text not null,
    unit text,
    source text not null default 'paper',
    entered_by bigint not null references users,
    entered_at timestamptz not null default now(),
    unique (paper_call_id, question_id)
);

create table marks (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    paper_call_id bigint not null references paper_calls,
    question_id text not null,
    points int not null,
    earned int not null,
    code text not null,
    params jsonb not null,
    rubric_version text not null,
    marked_at timestamptz not null default now(),
    unique (paper_call_id, question_id)
);

create table documents (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    sheet_id bigint not null references sheets,
    kind text not null check (kind in ('packet', 'key')),
    pdf bytea not null,
    created_at timestamptz not null default now(),
    unique (sheet_id, kind)
);

create function refuse_change() returns trigger language plpgsql as $$
begin
    raise exception 'rows of % never change', tg_table_name;
end
$$;
create trigger scenario_versions_frozen before update or delete on scenario_versions
    for each row execute function refuse_change();
create trigger paper_calls_frozen before update on paper_calls
    for each row execute function refuse_change();
