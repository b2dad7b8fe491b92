-- The steps by which a new installation is set up. An installation that did not begin empty has none.
create table setup_step (
    step  text primary key check (step in ('ORGANISATION', 'RECORDS', 'PEOPLE')),
    later boolean not null default false
);
comment on column setup_step.later is 'whether somebody left it for later; whether it is done is read from what is there';
