package deftlens.server.linking;

import jakarta.persistence.Column;
import jakarta.persistence.Embeddable;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** A table of a linked server that can be read here, and what PostgreSQL does not keep of it. */
@Embeddable
class LinkedTable {

    private String name;

    @Column(name = "source_schema")
    private String sourceSchema;

    @Column(name = "source_table")
    private String sourceTable;

    private String comment;

    @Column(name = "about_rows")
    private long aboutRows;

    @Column(name = "key_columns")
    @JdbcTypeCode(SqlTypes.JSON)
    private String keyColumns;

    @JdbcTypeCode(SqlTypes.JSON)
    private String choices;

    protected LinkedTable() {}

    LinkedTable(String name, RemoteTable source, String keyColumns, String choices) {
        this.name = name;
        this.sourceSchema = source.schema();
        this.sourceTable = source.table();
        this.comment = source.comment();
        this.aboutRows = source.rows();
        this.keyColumns = keyColumns;
        this.choices = choices;
    }

    String name() {
        return name;
    }

    String sourceSchema() {
        return sourceSchema;
    }

    String sourceTable() {
        return sourceTable;
    }

    long aboutRows() {
        return aboutRows;
    }

    String keyColumns() {
        return keyColumns;
    }

    String choices() {
        return choices;
    }

    boolean isOf(String schema, String table) {
        return sourceSchema.equals(schema) && sourceTable.equals(table);
    }
}
