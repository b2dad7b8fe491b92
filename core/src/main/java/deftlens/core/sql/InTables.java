package deftlens.core.sql;

import deftlens.core.condition.Elsewhere;

/** Records that a criterion looks for values in, where the database keeps them. */
public interface InTables extends Elsewhere.Records {

    /** Those of them that whoever reads may see. */
    Scope scope();
}
