-- Classes with terms and groups, sheets built of items, marking by two at once, rules, measurements, and who did what.

alter table users drop constraint users_role_check;
alter table users add constraint users_role_check check (role in ('instructor', 'assistant', 'apprentice'));
alter table users add column disabled_at timestamptz;

alter table classes add column term text not null default '';
alter table classes add column archived_at timestamptz;
alter table classes drop constraint class_name_taken;
alter table classes add constraint class_name_taken unique (school_id, name, term);

alter table apprentices add column number text not null default '';
alter table apprentices add column group_name text not null default '';
alter table apprentices add column left_at timestamptz;
alter table apprentices add column user_id bigint references users;

alter table sheets drop constraint sheets_status_check;
alter table sheets add constraint sheets_status_check
    check (status in ('draft', 'queued', 'building', 'ready', 'failed', 'cancelling', 'cancelled'));
alter table sheets add column paper text check (paper in ('letter', 'A4'));
alter table sheets add column large boolean not null default false;
alter table sheets add column released_at timestamptz;
-- A ready sheet is printed again: 'on' while it is, 'stop' once somebody wants it stopped.
alter table sheets add column printing text check (printing in ('on', 'stop'));

-- What a sheet holds. ``data`` is the checked item without the scenario, which stays in its version; rules are newest last.
alter table sheet_calls alter column scenario_version_id drop not null;
alter table sheet_calls add column data jsonb not null default '{"kind": "scenario"}';
alter table sheet_calls add column rules jsonb not null default '{}';

-- ``person`` is the number a paper's draws were made with; a retake is a further attempt with other numbers.
alter table papers add column attempt int not null default 1;
alter table papers add column person int;
update papers p set person = n.person
    from (select id, row_number() over (partition by sheet_id order by id) - 1 as person from papers) n where n.id = p.id;
alter table papers alter column person set not null;
alter table papers drop constraint papers_sheet_id_apprentice_id_key;
alter table papers add constraint paper_taken unique (sheet_id, apprentice_id, attempt);

-- Points a call is worth before any rule, so that lists need not open the body.
alter table paper_calls add column possible int not null default 0;
alter table paper_calls disable trigger paper_calls_frozen;
update paper_calls set possible = (select coalesce(sum((q ->> 'points')::int), 0) from jsonb_array_elements(body -> 'questions') q);
alter table paper_calls enable trigger paper_calls_frozen;

-- Every change of an answer counts up, so that two markers see each other.
alter table answers add column revision int not null default 1;

-- ``overridden`` marks stand against the rubric; ``suggested`` are points proposed for free text until somebody confirms.
alter table marks add column suggested int;
alter table marks add column overridden boolean not null default false;

-- What a rig really read. The newest row of a call counts; ``body`` is the call to mark against, frozen.
create table measurements (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    sheet_id bigint not null references sheets,
    position int not null,
    readings jsonb not null,
    warnings jsonb not null,
    body jsonb not null,
    entered_by bigint not null references users,
    entered_at timestamptz not null default now()
);
create index measurements_of_a_call on measurements (sheet_id, position, id);

create table audit (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    sheet_id bigint references sheets,
    paper_id bigint references papers on delete cascade,
    position int,
    question_id text,
    action text not null,
    before jsonb,
    after jsonb,
    reason text not null default '',
    user_id bigint not null references users,
    at timestamptz not null default now()
);
create index audit_of_a_sheet on audit (sheet_id, id);

alter table documents drop constraint documents_kind_check;
alter table documents add constraint documents_kind_check check (kind in ('packet', 'key', 'slips', 'preview', 'feedback'));
