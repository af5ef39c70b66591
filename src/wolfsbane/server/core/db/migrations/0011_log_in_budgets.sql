-- Log-in budgets: by name and address, by address, by name; a browser somebody logged in from before is known.

alter table login_attempts add column address text not null default '';
-- the known browser it came from, by its token's hash; null from any other
alter table login_attempts add column device text;
create index login_attempts_from on login_attempts (address, at);

create table login_devices (
    token_hash text primary key,
    school_id bigint not null references schools,
    user_id bigint not null references users on delete cascade,
    seen_at timestamptz not null default now()
);
create index login_devices_of on login_devices (user_id);
