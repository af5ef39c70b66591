-- Learning platforms (LTI 1.3): who they are, which of their courses is which class, who is who, points sent back.

create table lti_platforms (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    name text not null,
    issuer text not null,
    client_id text not null,
    deployments text[] not null,
    login_url text not null,
    token_url text not null,
    keys_url text not null,
    created_at timestamptz not null default now(),
    constraint platform_taken unique (issuer, client_id)
);

create table lti_courses (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    platform_id bigint not null references lti_platforms on delete cascade,
    context text not null,
    title text not null,
    -- null until an instructor says which class it is
    class_id bigint references classes on delete set null,
    -- where the platform lists names and takes points; '' where it does neither
    names_url text not null default '',
    items_url text not null default '',
    names_at timestamptz,
    unique (platform_id, context)
);
create index on lti_courses (class_id);

create table lti_people (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    course_id bigint not null references lti_courses on delete cascade,
    subject text not null,
    apprentice_id bigint not null references apprentices on delete cascade,
    unique (course_id, subject),
    unique (course_id, apprentice_id)
);
create index on lti_people (apprentice_id);

-- Instructors and assistants: linked by themselves, once.
create table lti_staff (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    platform_id bigint not null references lti_platforms on delete cascade,
    subject text not null,
    user_id bigint not null references users on delete cascade,
    unique (platform_id, subject),
    unique (platform_id, user_id)
);

-- A launch under way: asked with state and nonce; once the platform answered, who came and where to.
create table lti_launches (
    state_hash text primary key,
    school_id bigint not null references schools,
    platform_id bigint not null references lti_platforms on delete cascade,
    nonce text not null,
    answered jsonb,
    expires_at timestamptz not null default now() + interval '10 minutes'
);

create table lti_points (
    school_id bigint not null references schools,
    sheet_id bigint not null references sheets on delete cascade,
    apprentice_id bigint not null references apprentices on delete cascade,
    earned float not null,
    possible float not null,
    sent_at timestamptz,
    problem text,
    primary key (sheet_id, apprentice_id)
);

-- Keys of this server, all schools': the newest signs, older ones stay published for a while.
create table tool_keys (
    id text primary key,
    private_key text not null,
    created_at timestamptz not null default now()
);
