-- What stands beside a pinned view on the list, in the place of the number of its records.
alter table pin add column figure text;
comment on column pin.figure is 'the name of a figure of the view''s totals; null for the number of records';
