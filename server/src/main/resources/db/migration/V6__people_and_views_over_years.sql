-- People: the facts that "my …" stands for, tokens that end, an identity provider, passwords that somebody else chose.

create table viewer_attribute (
    key         text primary key check (key ~ '^[a-z][a-z0-9_]*$' and key not in ('me', 'team')),
    label       text    not null,
    description text    not null default '',
    position    integer not null
);
comment on table viewer_attribute is 'what may follow "my" beside "my team"';
insert into viewer_attribute (key, label, position) values ('site', 'Site', 0);

create table viewer_value (
    person_id bigint  not null references person on delete cascade,
    attribute text    not null references viewer_attribute on delete cascade,
    position  integer not null,
    value     text    not null,
    primary key (person_id, attribute, position)
);
insert into viewer_value (person_id, attribute, position, value)
    select id, 'site', 0, site from person where site is not null;

alter table person
    drop column site,
    add column left_at              timestamptz,
    add column must_change_password boolean not null default false,
    add column subject              text unique;
comment on column person.subject is 'who this is at the identity provider (OpenID Connect sub)';
comment on column person.left_at is 'when the person was disabled; null while active';

alter table team add column version integer not null default 0;

alter table personal_token
    add column scope        text not null default 'WRITE' check (scope in ('READ', 'WRITE')),
    add column expires_at   timestamptz,
    add column last_used_at timestamptz;
comment on column personal_token.expires_at is 'null only for tokens made before tokens had an end';

create index trail_subject_kind on trail (subject, id);

-- Views: what may be done with them, how they are found, and what shows that they are used.

alter table view_share add column may text not null default 'LOOK' check (may in ('LOOK', 'CHANGE', 'MANAGE'));
update view_share set may = 'CHANGE' where may_change;
alter table view_share drop column may_change;

alter table kept_view
    add column labels jsonb not null default '[]',
    add column locked jsonb not null default '[]';
comment on column kept_view.locked is 'the parts, counted from 0 at the outermost level, that a reader may not change';

-- One owner's views have names of their own; the number tells those apart that did not.
update kept_view v set name = v.name || ' (' || v.id || ')'
    where v.deleted_at is null and exists (
        select from kept_view w where w.owner_id = v.owner_id and lower(w.name) = lower(v.name) and w.deleted_at is null and w.id < v.id);
create unique index kept_view_name on kept_view (owner_id, lower(name)) where deleted_at is null;

create table view_opening (
    view_id   bigint      not null references kept_view on delete cascade,
    person_id bigint      not null references person,
    day       date        not null,
    times     integer     not null,
    last_at   timestamptz not null,
    primary key (view_id, person_id, day)
);
comment on table view_opening is 'who opened a view, by day of the organisation; kept for 400 days';
create index view_opening_person on view_opening (person_id, last_at);

create table view_reader (
    view_id    bigint      not null references kept_view on delete cascade,
    person_id  bigint      not null references person,
    answers    jsonb       not null default '{}',
    refinement jsonb,
    changed_at timestamptz not null,
    primary key (view_id, person_id)
);
comment on table view_reader is 'what is a reader''s own about a view: answers to its blanks, and a refinement of its statement';

create table view_attention (
    view_id  bigint      not null references kept_view on delete cascade,
    code     text        not null,
    message  text        not null,
    found_at timestamptz not null,
    primary key (view_id, code, message)
);
comment on table view_attention is 'what the nightly check found about a view that its owner should look at';

create table team_view (
    team_id  bigint  not null references team on delete cascade,
    view_id  bigint  not null references kept_view on delete cascade,
    position integer not null,
    primary key (team_id, view_id)
);
comment on table team_view is 'the views that the members of a team find on their list from the first day';
