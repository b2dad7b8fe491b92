-- Fields that were removed from registers. Their columns stay as they are, so that they can be brought back.
create table register_field_removed (like register_field including defaults);
alter table register_field_removed
    add primary key (register_id, position),
    add foreign key (register_id) references register on delete cascade,
    add constraint register_field_removed_once unique (register_id, key) deferrable initially deferred;
