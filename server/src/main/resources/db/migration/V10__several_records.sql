-- What several records of a register are called in a sentence: "ledger entries". Until somebody says otherwise, by the rule.
alter table register add column records_label text not null default '';
update register set records_label = case
    when record_label ~ '[^aeiouAEIOU]y$' then regexp_replace(record_label, 'y$', 'ies')
    when record_label ~ '(s|x|z|ch|sh)$' then record_label || 'es'
    else record_label || 's'
end;
alter table register alter column records_label drop default;
