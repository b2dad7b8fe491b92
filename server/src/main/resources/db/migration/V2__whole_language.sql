-- Bands and spans in the catalogue, the organisation's working calendar, and zones of views that are the reader's.

alter table register_field
    add column bands            jsonb   not null default '[]',
    add column start_field      text,
    add column end_field        text,
    add column last_day_belongs boolean not null default false,
    add check ((type = 'SPAN') = (start_field is not null and end_field is not null));

create table working_hours (
    organisation_id smallint not null default 1 references organisation,
    weekday smallint not null check (weekday between 1 and 7),
    from_time time not null,
    to_time   time not null,
    primary key (organisation_id, weekday, from_time),
    check (to_time = '00:00' or from_time < to_time)
);
comment on table working_hours is 'a weekday without a row is a day off; to_time 00:00 is the end of the day';
insert into working_hours (weekday, from_time, to_time) select weekday, '09:00', '17:00' from generate_series(1, 5) weekday;

create table working_exception (
    organisation_id smallint not null default 1 references organisation,
    day   date not null,
    label text not null,
    hours jsonb not null default '[]',
    primary key (organisation_id, day)
);
comment on table working_exception is 'a date whose hours replace those of its weekday; none is a day off';
