-- Why somebody changed many records, how many there were, and the job that did it.
alter table change_set add reason text not null default '';
alter table change_set add records bigint;
alter table change_set add job_id bigint references job on delete set null;
alter table change_set add made_first bigint;
alter table change_set add made_last bigint;
comment on column change_set.made_first is 'between which numbers the records are that it made; others may have made some in between';
comment on column change_set.records is 'how many records it wrote, where that was counted';
create index change_set_job on change_set (job_id) where job_id is not null;
create index change_set_undoes on change_set (undoes) where undoes is not null;
alter table change_set drop constraint change_set_origin_check;
alter table change_set add constraint change_set_origin_check
    check (origin in ('RECORD', 'BULK', 'TAGS', 'FILE', 'TAKEN_BACK', 'DATABASE', 'UNDONE'));

-- Whether a team may change many records at once.
alter table register_access add may_change_many boolean not null default false;

-- What a set of changes ended is found by it.
do $$
declare
    r record;
begin
    for r in select c.relname from pg_class c join pg_namespace n on n.oid = c.relnamespace
             where n.nspname = 'past' and c.relkind = 'r' loop
        execute format('create index on past.%I ("@until")', r.relname);
    end loop;
end $$;

-- Has a table of records keep their past from now on. What is in it by now was made by the set that the transaction is writing.
create or replace function deft_keep_past(kept regclass, register bigint) returns void language plpgsql as $$
declare
    name    text;
    made    text := nullif(current_setting('deft.set_' || register, true), '');
    a       record;
begin
    select relname into name from pg_class where oid = kept;
    execute format('alter table %s add "@since" bigint default %L', kept, made);
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
    execute format('create index on past.%I ("@until")', name);
    execute format('create trigger deft_since before update on %s for each row execute function deft_since(%L)', kept, register);
    execute format('create trigger deft_past_update after update on %s
                    referencing old table as old_records new table as new_records
                    for each statement execute function deft_keep_past(%L)', kept, register);
    execute format('create trigger deft_past_delete after delete on %s referencing old table as old_records
                    for each statement execute function deft_keep_past(%L)', kept, register);
    execute format('create trigger deft_past_truncate before truncate on %s
                    for each statement execute function deft_keep_past(%L)', kept, register);
end $$;

-- Between which numbers those are that were made by now: found by the notes of each, and by what imports noted.
update change_set s set made_first = c.first, made_last = c.last
from (select change_set_id, min(record_id) as first, max(record_id) as last from record_change where kind = 'MADE' group by 1) c
where c.change_set_id = s.id;
update change_set s set made_first = i.highest_before + 1, made_last = 9223372036854775807
from import_run i where i.change_set_id = s.id and i.highest_before is not null;

-- What records were is in the past of their tables. Beside it stays what was noted before there was one, and tags beside records.
delete from record_change c using change_set s, register r
where s.id = c.change_set_id and r.id = s.register_id and s.at >= r.past_since and s.origin <> 'TAGS';
delete from record_range c using change_set s, register r
where s.id = c.change_set_id and r.id = s.register_id and s.at >= r.past_since;
delete from record_change c using change_set s where s.id = c.change_set_id and s.origin = 'FILE' and c.kind = 'REMOVED';

-- Imports are taken back by it. Those from before have no way back any more.
update import_run i set change_set_id = null
from change_set s join register r on r.id = s.register_id
where s.id = i.change_set_id and (i.written_in is null or r.past_since is null or s.at < r.past_since);
alter table import_run drop written_in, drop highest_before;
