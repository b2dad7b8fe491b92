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

    private String description;
    private String unit;
    private boolean useful;
    private boolean identifying;
    private boolean correctable;

    @JdbcTypeCode(SqlTypes.JSON)
    private String correctors;

    @Enumerated(EnumType.STRING)
    private FieldOrigin origin;

    @JdbcTypeCode(SqlTypes.JSON)
    private String relates;

    private String expression;
    private String calculation;

    protected FieldEntity() {}

    FieldEntity(
            RegisterDefinition.FieldDefinition definition,
            String columnName,
            String expression,
            String options,
            String bands,
            String relates,
            String correctors) {
        this.key = definition.key();
        this.label = definition.label();
        this.type = definition.type();
        this.origin = definition.origin();
        this.columnName = columnName;
        this.expression = expression;
        this.required = definition.required();
        this.shown = definition.shown();
        this.options = options;
        this.bands = bands;
        this.description = definition.about().description();
        this.unit = definition.about().unit();
        this.useful = definition.about().useful();
        this.identifying = definition.about().identifying();
        this.correctable = definition.about().correctable();
        this.relates = relates;
        this.correctors = correctors;
        this.calculation = definition.calculation().orElse("");
        definition.ends().ifPresent(ends -> {
            this.startField = ends.start();
            this.endField = ends.end();
            this.lastDayBelongs = ends.lastDayBelongs();
        });
    }

    /** Reads it from another column from now on. */
    void readFrom(String newColumn, String newExpression) {
        this.columnName = newColumn;
        this.expression = newExpression;
    }

    /** Gives it other known values, as a JSON array. */
    void choose(String newOptions) {
        this.options = newOptions;
    }

    /** Lets records be without it from now on. */
    void mayLack() {
        this.required = false;
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

    String description() {
        return description;
    }

    String unit() {
        return unit;
    }

    boolean useful() {
        return useful;
    }

    boolean identifying() {
        return identifying;
    }

    boolean correctable() {
        return correctable;
    }

    String correctors() {
        return correctors;
    }

    FieldOrigin origin() {
        return origin;
    }

    String expression() {
        return expression;
    }

    /** How it is calculated; absent where it is not. */
    Optional<String> calculation() {
        return Optional.of(calculation).filter(c -> !c.isEmpty());
    }

    String relates() {
        return relates;
    }

    Optional<Field.Ends> ends() {
        return startField == null
                ? Optional.empty()
                : Optional.of(new Field.Ends(startField, endField, lastDayBelongs));
    }
}
