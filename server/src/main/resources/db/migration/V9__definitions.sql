-- Whoever has a page open hears that something its answers rest on was changed, in the same moment as the number is raised.
create or replace function raise_epoch() returns trigger language plpgsql as $$
begin
    -- Once in a transaction is enough.
    if current_setting('deft.epoch_raised', true) is distinct from txid_current()::text then
        perform set_config('deft.epoch_raised', txid_current()::text, true);
        update change_count set epoch = epoch + 1;
        perform pg_notify('deft_definitions', '');
    end if;
    return null;
end $$;

-- What the nightly look found about registers: tables that are not what they were, servers that do not answer.
create table register_attention (
    register_id bigint      not null references register on delete cascade,
    code        text        not null,
    message     text        not null,
    found_at    timestamptz not null,
    primary key (register_id, code, message)
);
