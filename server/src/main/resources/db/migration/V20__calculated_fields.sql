-- Calculated fields: their values stand in no column, but come about from other fields of the same record.
alter table register_field drop constraint register_field_origin_check;
alter table register_field
    add constraint register_field_origin_check check (origin in ('COLUMN', 'SPAN', 'TAGS', 'SEEN', 'MEMBER', 'CALCULATED')),
    add column calculation text not null default '';
comment on column register_field.calculation is 'how a calculated field comes to its value, in the language; empty for all others';
alter table register_field_removed add column calculation text not null default '';
