package deftlens.server.registers;

import deftlens.core.field.FieldType;
import jakarta.persistence.Column;
import jakarta.persistence.Embeddable;
import jakarta.persistence.EnumType;
import jakarta.persistence.Enumerated;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** The catalogue's entry of one field. */
@Embeddable
class FieldEntity {

    private String key;
    private String label;

    @Enumerated(EnumType.STRING)
    private FieldType type;

    @Column(name = "column_name")
    private String columnName;

    private boolean required;
    private boolean shown;

    @JdbcTypeCode(SqlTypes.JSON)
    private String options;

    protected FieldEntity() {}

    FieldEntity(RegisterDefinition.FieldDefinition definition, String options) {
        this.key = definition.key();
        this.label = definition.label();
        this.type = definition.type();
        this.columnName = definition.key();
        this.required = definition.required();
        this.shown = definition.shown();
        this.options = options;
    }

    String key() {
        return key;
    }

    String label() {
        return label;
    }

    FieldType type() {
        return type;
    }

    String columnName() {
        return columnName;
    }

    boolean required() {
        return required;
    }

    boolean shown() {
        return shown;
    }

    String options() {
        return options;
    }
}
