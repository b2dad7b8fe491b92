-- Why somebody changed many records, how many there were, and the job that did it.
alter table change_set add reason text not null default '';
alter table change_set add records bigint;
alter table change_set add job_id bigint references job on delete set null;
comment on column change_set.records is 'how many records it wrote, where that was counted';
create index change_set_job on change_set (job_id) where job_id is not null;
create index change_set_undoes on change_set (undoes) where undoes is not null;
alter table change_set drop constraint change_set_origin_check;
alter table change_set add constraint change_set_origin_check
    check (origin in ('RECORD', 'BULK', 'TAGS', 'FILE', 'TAKEN_BACK', 'DATABASE', 'UNDONE'));

-- Whether a team may change many records at once.
alter table register_access add may_change_many boolean not null default false;

-- What a set of changes ended is found by it.
create function deft_past_by_set() returns void language plpgsql as $$
declare
    r record;
begin
    for r in select c.relname from pg_class c join pg_namespace n on n.oid = c.relnamespace
             where n.nspname = 'past' and c.relkind = 'r' loop
        execute format('create index on past.%I ("@until")', r.relname);
    end loop;
end $$;
select deft_past_by_set();
drop function deft_past_by_set();
