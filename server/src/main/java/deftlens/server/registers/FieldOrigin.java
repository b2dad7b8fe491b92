package deftlens.server.registers;

/** Where a field's values come from. */
public enum FieldOrigin {
    /** A column of the register's table. */
    COLUMN,
    /** Two other fields. */
    SPAN,
    /** Tags kept beside the records. */
    TAGS,
    /** Whether the reader has seen the record. */
    SEEN,
    /** Which register a record of a combined one comes from. */
    MEMBER,
    /** A calculation from other fields of the same record. */
    CALCULATED
}
