-- Lab sessions: students at a rig, and every step of theirs as an event that is never changed.

-- ``body`` is the frozen call, ``planted`` what stood on the rig when it began (faults with their severities),
-- ``rubric`` the points of the parts beside the call's own, ``people`` the apprentices at the rig, ``asks`` what the
-- rig asks for (countersigning). ``forecast`` is what the plan that waits would do, ``judged`` what was found out
-- about it so far, with its marks.
create table lab_sessions (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    rig_id bigint references rigs on delete set null,
    rig_name text not null,
    class_id bigint references classes on delete cascade,
    title text not null,
    people bigint[] not null,
    body jsonb not null,
    planted jsonb not null default '[]',
    machine jsonb not null,
    rubric jsonb not null,
    asks jsonb not null default '{}',
    forecast jsonb,
    judged jsonb,
    began_at timestamptz not null default now(),
    began_by bigint references users,
    ended_at timestamptz
);
create index lab_sessions_of_rig on lab_sessions (rig_id, began_at);
create index lab_sessions_of_class on lab_sessions (school_id, class_id, began_at);
-- one session at a rig at a time
create unique index lab_session_runs on lab_sessions (rig_id) where ended_at is null;

-- ``client_id`` is drawn where the event was typed, so that one that is sent twice is kept once.
create table lab_events (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    session_id bigint not null references lab_sessions on delete cascade,
    client_id text not null,
    at timestamptz not null,
    came_at timestamptz not null default now(),
    kind text not null,
    data jsonb not null default '{}',
    desk boolean not null default false,
    user_id bigint references users on delete set null,
    constraint lab_event_once unique (session_id, client_id)
);
create index lab_events_of on lab_events (session_id, at, id);

-- A student moves refrigerant in a session and may be forgotten later: the weight stays.
alter table refrigerant_moves drop constraint refrigerant_moves_user_id_fkey;
alter table refrigerant_moves add constraint refrigerant_moves_user_id_fkey
    foreign key (user_id) references users on delete set null;
