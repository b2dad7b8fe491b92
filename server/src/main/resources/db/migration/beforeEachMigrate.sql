-- The tables' epochs are raised at the end of a transaction. A migration that changes rows and then the form of the table they
-- are in would find them pending, and PostgreSQL refuses that; so they are raised at once while a migration runs.
set constraints all immediate;
