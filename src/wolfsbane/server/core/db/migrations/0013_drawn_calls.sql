-- Calls of a sheet that is being made, as they are drawn: who takes the job up after a killed worker goes on from them.

create table drawn_calls (
    school_id bigint not null references schools,
    sheet_id bigint not null references sheets on delete cascade,
    position int not null,
    person int not null,
    body jsonb not null,
    primary key (sheet_id, position, person)
);
