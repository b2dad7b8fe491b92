-- Keys of one letter are each person's to switch off: who dictates, or strikes a key by chance, must not set something off.
alter table person add column letter_keys boolean not null default true;
