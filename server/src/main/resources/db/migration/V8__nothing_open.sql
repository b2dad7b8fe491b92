-- Tries to sign in: by name and address together, and by address alone (name ''). A row is gone a while after its last try.
create table sign_in_try (
    name       text             not null,
    address    text             not null,
    failures   double precision not null,
    tried_at   timestamptz      not null,
    wait_until timestamptz      not null,
    known_at   timestamptz,
    primary key (name, address)
);
comment on column sign_in_try.failures is 'wrong passwords, halved every quarter of an hour; a try counts before its password is checked';
comment on column sign_in_try.known_at is 'when this name last signed in from this address; its tries do not count for the address';
create index sign_in_try_age on sign_in_try (tried_at);

-- A run whose server fell silent is known by this.
alter table import_run add column alive_at timestamptz;

alter table register_field add column correctors jsonb not null default '[]';
comment on column register_field.correctors is 'the teams whose members may correct the field, where it is correctable; none for everybody who sees it';

-- Questions that are too long for an address, sent before their file is fetched.
create table prepared_export (
    token        uuid primary key,
    person_id    bigint      not null references person on delete cascade,
    register_key text        not null,
    asked        jsonb       not null,
    made_at      timestamptz not null
);
