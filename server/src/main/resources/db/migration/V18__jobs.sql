-- What is done later or takes long. Who does it, and that somebody is still at it, is the scheduler's own table; how it goes and went is ours.
create table scheduled_tasks (
    task_name            text        not null,
    task_instance        text        not null,
    task_data            bytea,
    execution_time       timestamptz not null,
    picked               boolean     not null,
    picked_by            text,
    last_success         timestamptz,
    last_failure         timestamptz,
    consecutive_failures integer,
    last_heartbeat       timestamptz,
    version              bigint      not null,
    priority             smallint,
    primary key (task_name, task_instance)
);
create index on scheduled_tasks (execution_time);
create index on scheduled_tasks (last_heartbeat);

-- Work that somebody asked for.
create table job (
    id            bigint      generated always as identity primary key,
    kind          text        not null,
    about         text        not null,
    person_id     bigint      references person,
    input         jsonb       not null,
    state         text        not null default 'WAITING'
                  check (state in ('WAITING', 'RUNNING', 'DONE', 'FAILED', 'STOPPED')),
    phase         text        not null default '',
    share         float8      not null default 0,
    message       text        not null default '',
    server        text,
    attempts      integer     not null default 0,
    asked_at      timestamptz not null default clock_timestamp(),
    started_at    timestamptz,
    ended_at      timestamptz,
    stop_asked_at timestamptz
);
create index on job (asked_at);

-- The last round of each kind of work that the clock begins.
create table job_round (
    kind       text        primary key,
    state      text        not null check (state in ('DONE', 'FAILED')),
    message    text        not null,
    server     text        not null,
    started_at timestamptz not null,
    ended_at   timestamptz not null
);

-- The day whose nightly look at all views was done.
create table nightly_look (
    id  integer primary key check (id = 1),
    day date    not null
);
insert into nightly_look values (1, '0001-01-01');

-- An import is a job; one from before jobs has none.
alter table import_run add job_id bigint references job on delete set null;
alter table import_run add rows_expected bigint not null default 0;
alter table import_run drop column alive_at;
-- What was under way when the server was brought up to date wrote nothing.
update import_run set state = 'FAILED', ended_at = started_at,
    message = 'The server stopped while this was going on. Nothing was written; bring the file in again.' where state = 'RUNNING';

-- Files that wait to be brought in, in pieces, so that any server can read them.
create table upload (
    token       uuid        primary key,
    person_id   bigint      not null references person on delete cascade,
    name        text        not null,
    spreadsheet boolean     not null,
    highest_row bigint      not null,
    bytes       bigint      not null,
    received_at timestamptz not null,
    -- How far the reading of it is, from 0 to 1, and whether it is wanted any more.
    looked      float8      not null default 0,
    look_stopped boolean    not null default false
);
create table upload_part (
    token uuid    not null references upload on delete cascade,
    part  integer not null,
    bytes bytea   not null,
    primary key (token, part)
);
-- What is compressed already only costs time to be compressed again.
alter table upload_part alter bytes set storage external;

-- Indexes that would help, as they were proposed.
create table index_proposal (
    name        text        primary key,
    register_id bigint      not null references register on delete cascade,
    method      text        not null,
    columns     text        not null,
    words       text        not null,
    proposed_at timestamptz not null default clock_timestamp()
);

-- What need not outlive the database's own end: who has which view open, and questions that turned out slow.
create unlogged table open_page (
    person_id bigint      not null,
    page      text        not null,
    view_id   bigint      not null,
    changing  boolean     not null,
    seen_at   timestamptz not null,
    primary key (person_id, page)
);
create index on open_page (view_id);
create unlogged table slow_question (
    person_id bigint      not null,
    name      text        not null,
    place     text        not null,
    before    integer     not null,
    noted_at  timestamptz not null,
    primary key (person_id, name)
);
