package deftlens.server.registers;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import jakarta.persistence.Column;
import jakarta.persistence.Embeddable;
import jakarta.persistence.EnumType;
import jakarta.persistence.Enumerated;
import java.util.Optional;
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

    @JdbcTypeCode(SqlTypes.JSON)
    private String bands;

    @Column(name = "start_field")
    private String startField;

    @Column(name = "end_field")
    private String endField;

    @Column(name = "last_day_belongs")
    private boolean lastDayBelongs;

    protected FieldEntity() {}

    FieldEntity(RegisterDefinition.FieldDefinition definition, String options, String bands) {
        this.key = definition.key();
        this.label = definition.label();
        this.type = definition.type();
        this.columnName = definition.key();
        this.required = definition.required();
        this.shown = definition.shown();
        this.options = options;
        this.bands = bands;
        definition.ends().ifPresent(ends -> {
            this.startField = ends.start();
            this.endField = ends.end();
            this.lastDayBelongs = ends.lastDayBelongs();
        });
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

    String bands() {
        return bands;
    }

    Optional<Field.Ends> ends() {
        return startField == null
                ? Optional.empty()
                : Optional.of(new Field.Ends(startField, endField, lastDayBelongs));
    }
}
