-- What the server remembers of people, registers and the organisation is as good as this number: every change of them raises
-- it in its own transaction, so that whoever sees the change sees the number too. It is raised as the transaction commits,
-- since a long one (a register that is being filled) must not keep others from changing anything meanwhile.
create table change_count (
    id    integer primary key check (id = 1),
    epoch bigint  not null
);
insert into change_count values (1, 0);

create function raise_epoch() returns trigger language plpgsql as $$
begin
    -- Once in a transaction is enough.
    if current_setting('deft.epoch_raised', true) is distinct from txid_current()::text then
        perform set_config('deft.epoch_raised', txid_current()::text, true);
        update change_count set epoch = epoch + 1;
    end if;
    return null;
end $$;

do $$
declare
    changed text;
begin
    foreach changed in array array[
        'organisation', 'working_hours', 'working_exception', 'team', 'person', 'team_member', 'viewer_attribute',
        'viewer_value', 'register', 'register_field', 'register_member', 'register_access'
    ] loop
        execute format(
            'create constraint trigger raise_epoch after insert or update or delete on %I
             deferrable initially deferred for each row execute function raise_epoch()',
            changed);
    end loop;
end $$;
