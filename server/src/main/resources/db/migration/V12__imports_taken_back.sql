-- An import can be taken back. What it added is known by its transaction; what it changed or replaced is kept here as it was.
alter table import_run
    add column made_register  boolean not null default false,
    add column written_in     xid8,
    add column highest_before bigint,
    add column back_of        bigint references import_run on delete cascade;
create index import_run_back_of on import_run (back_of);
comment on column import_run.written_in is 'the transaction that wrote the records; absent where there is no way back';
comment on column import_run.highest_before is 'the highest number of a record before them';

create table import_before (
    run_id    bigint  not null references import_run on delete cascade,
    record_id bigint  not null,
    gone      boolean not null,
    before    jsonb   not null,
    primary key (run_id, record_id)
);
comment on table import_before is 'records as they were before an import changed them, or took them away (gone); kept for 30 days';
