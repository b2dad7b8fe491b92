-- Whom a token stands for is remembered like the rest; that it was used is not a change of it.
create constraint trigger raise_epoch
    after insert or delete or update of person_id, hash, revoked_at, scope, expires_at on personal_token
    deferrable initially deferred for each row execute function raise_epoch();
