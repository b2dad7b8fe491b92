-- How a view is shown beyond its columns and order; what a register adds up as it goes; the windows that are offered first.

alter table kept_view add column shape jsonb not null default '{}';
comment on column kept_view.shape is 'widths, names and pins of columns, density, groups, totals, part taken, marks, running total';

alter table register add column running_field text;
comment on column register.running_field is 'the signed number whose sum so far means something: a balance, a number on hand';

alter table organisation add column windows jsonb not null default '[]';
comment on column organisation.windows is 'date phrases offered first, in their order; none: the usual ones';
