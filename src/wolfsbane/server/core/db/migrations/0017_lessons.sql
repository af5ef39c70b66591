-- Lessons: one call for a class on the projector, decided together by vote. The call is drawn for the lesson and is
-- nobody's paper.

create table screen_lessons (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    sheet_id bigint not null references sheets on delete cascade,
    position int not null,
    body jsonb not null,
    rubric text not null,
    points jsonb not null,
    solver_version text not null,
    taught_by bigint not null references users,
    -- of the class's screen, which knows nothing else
    token_hash text unique,
    -- counts up with whatever the class's screen shows
    revision int not null default 1,
    -- the vote that is open, or that was counted last
    vote jsonb,
    began_at timestamptz not null default now(),
    ended_at timestamptz,
    judged jsonb
);
create index on screen_lessons (sheet_id);

create table screen_lesson_steps (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    lesson_id bigint not null references screen_lessons on delete cascade,
    number int not null,
    at timestamptz not null default now(),
    kind text not null,
    data jsonb not null,
    shown jsonb,
    -- how the class had voted for it; null where the instructor chose
    vote jsonb,
    unique (lesson_id, number)
);

create table screen_votes (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    lesson_id bigint not null references screen_lessons on delete cascade,
    round int not null,
    user_id bigint not null references users on delete cascade,
    choice text not null,
    unique (lesson_id, round, user_id)
);
