-- Machines of a school's own: the plate as it was typed and what the tuner made of it. A scenario carries its own copy.
create table own_machines (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    machine_id text not null,
    name text not null,
    tuned jsonb not null,
    created_by bigint not null references users,
    created_at timestamptz not null default now(),
    constraint machine_name_taken unique (school_id, machine_id)
);
