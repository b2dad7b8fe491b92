-- Calculated fields that a question adds to those of a register, for itself alone. The same fields are one row, whoever asks with them,
-- and a row never changes; so it can stand in an address.
create table added_fields (
    register_id bigint not null references register on delete cascade,
    handle      text   not null,
    fields      jsonb  not null,
    primary key (register_id, handle)
);
comment on column added_fields.handle is 'the beginning of the SHA-256 of the fields: what follows the key of the register, after a tilde';

alter table kept_view add column added text;
comment on column kept_view.added is 'the handle of the fields that the view adds to those of its register; null where it adds none';
