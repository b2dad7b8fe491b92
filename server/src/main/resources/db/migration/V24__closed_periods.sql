-- Up to which day the records of a register are closed, and what was closed and reopened before.
alter table register add closed_up_to date;
create table closed_period (
    id          bigint      generated always as identity primary key,
    register_id bigint      not null references register on delete cascade,
    up_to       date,
    person_id   bigint      not null references person,
    at          timestamptz not null,
    reason      text        not null
);
comment on column closed_period.up_to is 'the last closed day from then on; absent where everything was reopened';
create index closed_period_register on closed_period (register_id, id);

-- Refuses what would write a record of a closed period, whoever writes: made, changed, moved into it or out of it, taken away.
create function deft_refuse_closed() returns trigger language plpgsql as $$
declare
    closed  record;
    until   text;
    records bigint;
begin
    select r.closed_up_to as up_to, f.column_name as main, f.type, o.zone into closed
    from register r
    join register_field f on f.register_id = r.id and f.key = r.main_field
    cross join organisation o
    where r.id = cast(tg_argv[0] as bigint) and r.closed_up_to is not null;
    if not found then
        return null;
    end if;
    if tg_op = 'TRUNCATE' then
        raise exception 'records of a closed period' using errcode = 'DL001', detail = '0';
    end if;
    -- The first moment, or day, that is open.
    until := case closed.type
        when 'DATE' then format('%L::date', closed.up_to + 1)
        else format('%L::timestamptz', cast(closed.up_to + 1 as timestamp) at time zone closed.zone)
    end;
    execute case tg_op
        when 'INSERT' then format('select count(*) from new_records n where n.%I < %s', closed.main, until)
        when 'DELETE' then format('select count(*) from old_records o where o.%I < %s', closed.main, until)
        else format('select count(*) from old_records o full join new_records n on n.id = o.id
                     where (o.%1$I < %2$s or n.%1$I < %2$s) and o is distinct from n', closed.main, until)
    end into records;
    if records > 0 then
        raise exception 'records of a closed period' using errcode = 'DL001', detail = records::text;
    end if;
    return null;
end $$;

-- Has a table refuse what would write its closed records, from now on or no more.
create function deft_guard_closed(guarded regclass, register bigint, guard boolean) returns void language plpgsql as $$
begin
    execute format('drop trigger if exists deft_closed_insert on %s', guarded);
    execute format('drop trigger if exists deft_closed_update on %s', guarded);
    execute format('drop trigger if exists deft_closed_delete on %s', guarded);
    execute format('drop trigger if exists deft_closed_truncate on %s', guarded);
    if guard then
        execute format('create trigger deft_closed_insert after insert on %s referencing new table as new_records
                        for each statement execute function deft_refuse_closed(%L)', guarded, register);
        execute format('create trigger deft_closed_update after update on %s
                        referencing old table as old_records new table as new_records
                        for each statement execute function deft_refuse_closed(%L)', guarded, register);
        execute format('create trigger deft_closed_delete after delete on %s referencing old table as old_records
                        for each statement execute function deft_refuse_closed(%L)', guarded, register);
        execute format('create trigger deft_closed_truncate before truncate on %s
                        for each statement execute function deft_refuse_closed(%L)', guarded, register);
    end if;
end $$;
