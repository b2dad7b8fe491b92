-- Sums that are kept of registers while records are written: one table for each, and one of the changes since, in a schema of their own.
create schema kept;
create table kept_sums (
    register_id bigint primary key references register on delete cascade,
    key         text    not null unique,
    keys        text[]  not null,
    amounts     text[]  not null,
    main_field  text    not null,
    zone        text    not null,
    kept_at     timestamptz not null default now()
);
comment on table kept_sums is 'of which registers sums are kept by the days of their main date: told apart by which fields, of which numbers, in which zone';
create constraint trigger raise_epoch after insert or update or delete on kept_sums
    deferrable initially deferred for each row execute function raise_epoch();
