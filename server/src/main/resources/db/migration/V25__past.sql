-- What records were before each change, in tables of their own beside those of the records: whoever writes, the database keeps it.
create schema past;

-- When a set of changes came to be seen: what was begun earlier can be seen later. Said again when the transaction ends.
alter table change_set add begun timestamptz not null default clock_timestamp();
alter table change_set drop constraint change_set_origin_check;
alter table change_set add constraint change_set_origin_check
    check (origin in ('RECORD', 'BULK', 'TAGS', 'FILE', 'TAKEN_BACK', 'DATABASE'));
create index change_set_at on change_set (register_id, at);

create function deft_stamp_set() returns trigger language plpgsql as $$
begin
    -- Those who end at the same time come one after the other, so that times say who was seen first.
    perform pg_advisory_xact_lock(1684890996);
    update change_set set at = at + (clock_timestamp() - begun) where id = new.id;
    return null;
end $$;
create constraint trigger deft_stamp_set after insert on change_set
    deferrable initially deferred for each row execute function deft_stamp_set();

-- The set of changes that the transaction is writing of a register, as the setting deft.set_5 says it; one of the database's own
-- where nobody said.
create function deft_set(register bigint) returns bigint language plpgsql as $$
declare
    setting text := 'deft.set_' || register;
    said    text := current_setting(setting, true);
    made    bigint;
begin
    if said <> '' then
        return said;
    end if;
    insert into change_set (register_id, at, origin) values (register, clock_timestamp(), 'DATABASE') returning id into made;
    perform set_config(setting, made::text, true);
    return made;
end $$;

-- The set that changed a record last.
create function deft_since() returns trigger language plpgsql as $$
begin
    if new is distinct from old and coalesce(current_setting('deft.reshaping', true), '') <> 'on' then
        new."@since" := deft_set(tg_argv[0]::bigint);
    end if;
    return new;
end $$;

create function deft_keep_past() returns trigger language plpgsql as $$
declare
    columns text;
begin
    if coalesce(current_setting('deft.reshaping', true), '') = 'on' then
        return null;
    end if;
    select string_agg(quote_ident(attname), ', ' order by attnum) into columns
    from pg_attribute where attrelid = tg_relid and attnum > 0 and not attisdropped;
    execute case tg_op
        when 'TRUNCATE' then format('insert into past.%I (%s, "@until") select %s, %s from %s',
            tg_table_name, columns, columns, deft_set(cast(tg_argv[0] as bigint)), tg_relid::regclass)
        when 'DELETE' then format('insert into past.%I (%s, "@until") select %s, %s from old_records',
            tg_table_name, columns, columns, deft_set(cast(tg_argv[0] as bigint)))
        else format('insert into past.%I (%s, "@until") select %s, n."@now" from old_records o
                     join (select id as "@id", "@since" as "@now" from new_records) n on n."@id" = o.id
                     where n."@now" is distinct from o."@since"',
            tg_table_name, columns, columns)
    end;
    return null;
end $$;

-- Has a table of records keep their past from now on.
create function deft_keep_past(kept regclass, register bigint) returns void language plpgsql as $$
declare
    name    text;
    a       record;
begin
    select relname into name from pg_class where oid = kept;
    execute format('alter table %s add "@since" bigint', kept);
    execute format('alter table %s alter "@since" set default deft_set(%s)', kept, register);
    -- What a table of that name was before is nothing of this one.
    execute format('drop table if exists past.%I', name);
    execute format('create table past.%I (like %s)', name, kept);
    for a in select attname from pg_attribute
             where attrelid = format('past.%I', name)::regclass and attnum > 0 and attnotnull loop
        execute format('alter table past.%I alter %I drop not null', name, a.attname);
    end loop;
    execute format('alter table past.%I add "@until" bigint not null', name);
    execute format('create index on past.%I (id, "@until")', name);
    execute format('create trigger deft_since before update on %s for each row execute function deft_since(%L)', kept, register);
    execute format('create trigger deft_past_update after update on %s
                    referencing old table as old_records new table as new_records
                    for each statement execute function deft_keep_past(%L)', kept, register);
    execute format('create trigger deft_past_delete after delete on %s referencing old table as old_records
                    for each statement execute function deft_keep_past(%L)', kept, register);
    execute format('create trigger deft_past_truncate before truncate on %s
                    for each statement execute function deft_keep_past(%L)', kept, register);
end $$;

-- From when on the past of a register's records is kept; absent of those whose records are not kept here.
alter table register add past_since timestamptz;
select deft_keep_past(format('records.%I', table_name)::regclass, id) from register
where origin = 'OWN' and to_regclass(format('records.%I', table_name)) is not null;
update register set past_since = clock_timestamp()
where origin = 'OWN' and to_regclass(format('records.%I', table_name)) is not null;
-- The order at rest and the windows of the main date walk along it, in the past as in the present.
do $$
declare
    r record;
begin
    for r in select g.table_name, f.column_name from register g
             join register_field f on f.register_id = g.id and f.key = g.main_field
             where g.past_since is not null loop
        execute format('create index on past.%I (%I, id)', r.table_name, r.column_name);
    end loop;
end $$;
