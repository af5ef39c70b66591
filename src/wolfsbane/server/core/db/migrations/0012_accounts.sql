-- Log-ins unique in a school; one-time codes in place of passwords others know; a second factor; sessions that can be
-- listed; a trail of what was done to accounts, classes and the whole school.

alter table schools add column short text;
update schools set short = coalesce(nullif(trim(both '-' from lower(regexp_replace(name, '[^A-Za-z0-9]+', '-', 'g'))), ''), 'school');
update schools s set short = s.short || '-' || s.id
where exists (select 1 from schools o where o.short = s.short and o.id < s.id);
alter table schools alter column short set not null;
alter table schools add constraint school_short_taken unique (short);

-- the short name of a new school, of what its name leaves; a number where that is taken
create function name_school() returns trigger language plpgsql as $$
begin
    if new.short is null then
        new.short := coalesce(nullif(trim(both '-' from lower(regexp_replace(new.name, '[^A-Za-z0-9]+', '-', 'g'))), ''), 'school');
        if exists (select 1 from schools where short = new.short) then
            new.short := new.short || '-' || new.id;
        end if;
    end if;
    return new;
end
$$;
create trigger schools_named before insert on schools for each row execute function name_school();

alter table users drop constraint users_login_key;
alter table users add constraint users_login_key unique (school_id, login);
-- somebody else chose or gave the password: its owner chooses another before anything else
alter table users add column must_change boolean not null default false;
alter table users add column totp_secret text;
alter table users add column totp_pending text;
-- counter of the last code taken: none is taken twice
alter table users add column totp_last bigint not null default 0;

alter table sessions add column id bigint generated always as identity;
alter table sessions add column seen_at timestamptz not null default now();
alter table sessions add column address text not null default '';
alter table sessions add column browser text not null default '';
create index sessions_of on sessions (user_id);

create table account_codes (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    user_id bigint not null references users on delete cascade,
    kind text not null check (kind in ('invitation', 'reset', 'recovery')),
    code_hash text not null unique,
    expires_at timestamptz not null,
    used_at timestamptz,
    created_at timestamptz not null default now()
);
create index account_codes_of on account_codes (user_id, kind);

create table school_trail (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    at timestamptz not null default now(),
    -- as they were called then; empty: the operator, at the command line
    writer text not null,
    did text not null
);
create index school_trail_of on school_trail (school_id, id);
create trigger school_trail_frozen before update or delete on school_trail
    for each row execute function refuse_change();
