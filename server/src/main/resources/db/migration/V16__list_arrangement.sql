-- How a person has the list of views and registers: which registers first, which ones not, what is folded, how wide. Absent: as it comes.
alter table person add column list_arrangement jsonb;
