-- Log-in by the school's own provider (OpenID Connect): whose identity an account is linked with, and log-ins under way.

create table user_identities (
    id bigint generated always as identity primary key,
    school_id bigint not null references schools,
    user_id bigint not null references users on delete cascade,
    issuer text not null,
    subject text not null,
    created_at timestamptz not null default now(),
    constraint identity_taken unique (issuer, subject),
    unique (user_id, issuer)
);

-- Nobody is known yet who begins one, so it carries no school.
create table oidc_flows (
    state_hash text primary key,
    nonce text not null,
    verifier text not null,
    -- who links, or null: somebody logs in
    user_id bigint references users on delete cascade,
    expires_at timestamptz not null default now() + interval '10 minutes'
);
