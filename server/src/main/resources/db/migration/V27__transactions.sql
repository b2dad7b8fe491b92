-- How records of a register are posted together, in lines that add up to zero; absent where they are not.
alter table register add transactions jsonb;

-- What was posted by hand, and what of it takes another transaction back.
create table posted_transaction (
    id            bigint      generated always as identity primary key,
    register_id   bigint      not null references register on delete cascade,
    number        text        not null,
    change_set_id bigint      not null references change_set on delete cascade,
    reverses      text
);
comment on column posted_transaction.reverses is 'the number of the transaction that this one is the opposite of';
create index posted_transaction_number on posted_transaction (register_id, number);
create index posted_transaction_reverses on posted_transaction (register_id, reverses) where reverses is not null;

-- What is posted again and again, kept under a name.
create table transaction_template (
    id          bigint      generated always as identity primary key,
    register_id bigint      not null references register on delete cascade,
    name        text        not null,
    content     jsonb       not null,
    person_id   bigint      not null references person,
    changed_at  timestamptz not null,
    version     integer     not null default 0
);
create unique index transaction_template_name on transaction_template (register_id, lower(name));

alter table change_set drop constraint change_set_origin_check;
alter table change_set add constraint change_set_origin_check
    check (origin in ('RECORD', 'BULK', 'POSTED', 'TAGS', 'FILE', 'TAKEN_BACK', 'DATABASE', 'UNDONE'));
