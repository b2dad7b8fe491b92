-- What was done to records at one time by one person for one reason, and what it did to each.
create table change_set (
    id          bigint      generated always as identity primary key,
    register_id bigint      not null references register on delete cascade,
    person_id   bigint      references person,
    at          timestamptz not null,
    origin      text        not null check (origin in ('RECORD', 'BULK', 'TAGS', 'FILE', 'TAKEN_BACK')),
    title       text        not null default '',
    undoes      bigint      references change_set on delete set null,
    -- Of whoever wrote to the trail before there were sets of changes.
    trail_id    bigint
);
comment on column change_set.origin is 'one record by itself, many at once, tags, a file, a file taken back';
comment on column change_set.title is 'the name of the file';
create index change_set_register on change_set (register_id, id);

-- The values that changed, by field. Before is absent of records that were made, after of those that were taken away.
create table record_change (
    change_set_id bigint not null references change_set on delete cascade,
    register_id   bigint not null,
    record_id     bigint not null,
    kind          text   not null check (kind in ('MADE', 'CHANGED', 'REMOVED')),
    before        jsonb,
    after         jsonb
);
create index record_change_record on record_change (register_id, record_id, change_set_id);
create index record_change_set on record_change (change_set_id);

-- Records that a file made, from one number to another; a row for each would be another copy of the file.
create table record_range (
    change_set_id bigint not null references change_set on delete cascade,
    register_id   bigint not null,
    kind          text   not null check (kind in ('MADE', 'REMOVED')),
    first_id      bigint not null,
    last_id       bigint not null
);
create index record_range_record on record_range (register_id, first_id);
create index record_range_set on record_range (change_set_id);

-- What the trail has of records.
insert into change_set (register_id, person_id, at, origin, trail_id)
select r.id, t.person_id, t.at,
       case t.action when 'tagged' then 'TAGS' when 'made in bulk' then 'BULK' when 'changed in bulk' then 'BULK' else 'RECORD' end, t.id
from trail t join register r on t.subject = 'record of ' || r.key
order by t.id;
insert into record_change (change_set_id, register_id, record_id, kind, before, after)
select s.id, s.register_id, t.subject_id, case when t.action like 'made%' then 'MADE' else 'CHANGED' end, t.before, t.after
from change_set s join trail t on t.id = s.trail_id;
delete from trail where id in (select trail_id from change_set);
alter table change_set drop column trail_id;

-- The way back of imports is what they changed.
alter table import_run add change_set_id bigint references change_set on delete set null;
alter table change_set add run_id bigint;
insert into change_set (register_id, person_id, at, origin, title, run_id)
select register_id, person_id, coalesce(ended_at, started_at), 'FILE', file_name, id
from import_run where written_in is not null and register_id is not null;
update import_run i set change_set_id = s.id from change_set s where s.run_id = i.id;
alter table change_set drop column run_id;
-- Kept by the names of columns, with the number; fields have other keys only where their type was changed, and those have no way back.
insert into record_change (change_set_id, register_id, record_id, kind, before)
select i.change_set_id, i.register_id, b.record_id, case when b.gone then 'REMOVED' else 'CHANGED' end, b.before - 'id'
from import_before b join import_run i on i.id = b.run_id where i.change_set_id is not null;
drop table import_before;
