package deftlens.server.registers;

import jakarta.persistence.CollectionTable;
import jakarta.persistence.Column;
import jakarta.persistence.ElementCollection;
import jakarta.persistence.Entity;
import jakarta.persistence.EnumType;
import jakarta.persistence.Enumerated;
import jakarta.persistence.FetchType;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.JoinColumn;
import jakarta.persistence.OrderColumn;
import jakarta.persistence.Table;
import jakarta.persistence.Version;
import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** The catalogue's entry of one register. */
@Entity
@Table(name = "register")
class RegisterEntity {

    @Id
    @GeneratedValue(strategy = GenerationType.IDENTITY)
    private Long id;

    private String key;
    private String label;

    @Column(name = "record_label")
    private String recordLabel;

    @Column(name = "records_label")
    private String recordsLabel;

    @Column(name = "table_name")
    private String tableName;

    @Column(name = "main_field")
    private String mainField;

    @Column(name = "title_field")
    private String titleField;

    @Column(name = "newest_first")
    private boolean newestFirst;

    @Column(name = "running_field")
    private String runningField;

    private int position;
    private String description;

    @Enumerated(EnumType.STRING)
    private Origin origin;

    @Column(name = "source_schema")
    private String sourceSchema;

    @Column(name = "key_columns")
    @JdbcTypeCode(SqlTypes.JSON)
    private String keyColumns;

    private boolean numbered;

    @JdbcTypeCode(SqlTypes.JSON)
    private String ordering;

    @JdbcTypeCode(SqlTypes.JSON)
    private String shape;

    @JdbcTypeCode(SqlTypes.JSON)
    private String transactions;

    @Column(name = "created_at")
    private Instant createdAt;

    @Column(name = "deleted_at")
    private Instant deletedAt;

    /** Written by whoever closes a period, without a new version of the entry. */
    @Column(name = "closed_up_to", insertable = false, updatable = false)
    private LocalDate closedUpTo;

    @Column(name = "past_since", updatable = false)
    private Instant pastSince;

    @Version
    private int version;

    @ElementCollection(fetch = FetchType.EAGER)
    @CollectionTable(name = "register_field", joinColumns = @JoinColumn(name = "register_id"))
    @OrderColumn(name = "position")
    private List<FieldEntity> fields = new ArrayList<>();

    @ElementCollection(fetch = FetchType.LAZY)
    @CollectionTable(name = "register_field_removed", joinColumns = @JoinColumn(name = "register_id"))
    @OrderColumn(name = "position")
    private List<FieldEntity> removedFields = new ArrayList<>();

    @ElementCollection(fetch = FetchType.LAZY)
    @CollectionTable(name = "register_member", joinColumns = @JoinColumn(name = "register_id"))
    @OrderColumn(name = "position")
    private List<MemberEntity> members = new ArrayList<>();

    protected RegisterEntity() {}

    RegisterEntity(
            RegisterDefinition definition, Source source, int position, Instant createdAt, List<FieldEntity> fields) {
        this.key = definition.key();
        this.origin = source.origin();
        this.sourceSchema = source.schema();
        this.tableName = source.table();
        this.keyColumns = source.keyColumns();
        this.numbered = source.numbered();
        this.shape = source.shape();
        this.ordering = "[]";
        this.position = position;
        this.createdAt = createdAt;
        this.pastSince = source.origin() == Origin.OWN ? createdAt : null;
        describe(definition);
        this.fields = new ArrayList<>(fields);
    }

    /**
     * Where the records are.
     *
     * @param keyColumns the columns that tell records of an attached table apart, as a JSON array
     * @param numbered whether the only one of them is a whole number
     * @param shape the columns of an attached table and their types, as JSON
     */
    record Source(Origin origin, String schema, String table, String keyColumns, boolean numbered, String shape) {
        static Source own(String key) {
            return new Source(Origin.OWN, "records", key, "[]", true, "[]");
        }

        static Source combined() {
            return new Source(Origin.COMBINED, "", "", "[]", true, "[]");
        }
    }

    Optional<Instant> pastSince() {
        return Optional.ofNullable(pastSince);
    }

    Optional<LocalDate> closedUpTo() {
        return Optional.ofNullable(closedUpTo);
    }

    void combine(List<MemberEntity> read) {
        members.clear();
        members.addAll(read);
    }

    /** Writes everything that a definition says of the register itself. */
    void describe(RegisterDefinition definition) {
        this.label = definition.label();
        if (!definition.recordLabel().equals(recordLabel)) {
            this.recordsLabel = Plurals.of(definition.recordLabel());
        }
        this.recordLabel = definition.recordLabel();
        this.description = definition.description();
        this.mainField = definition.mainField().orElse(null);
        this.titleField = definition.titleField();
        this.newestFirst = definition.newestFirst();
        this.runningField = definition.running().orElse(null);
    }

    /** Says how its records are posted together, as JSON; {@code null} where they are not. */
    void post(String rules) {
        this.transactions = rules;
    }

    /** How its records are posted together, as JSON. */
    Optional<String> transactions() {
        return Optional.ofNullable(transactions);
    }

    void order(String ordering) {
        this.ordering = ordering;
    }

    /** Tells its records apart by other columns from now on, as a JSON array. */
    void tellApartBy(String newKeyColumns) {
        this.keyColumns = newKeyColumns;
    }

    void accept(String shape) {
        this.shape = shape;
    }

    void delete(Instant at) {
        this.deletedAt = at;
    }

    Long id() {
        return id;
    }

    String description() {
        return description;
    }

    Origin origin() {
        return origin;
    }

    String sourceSchema() {
        return sourceSchema;
    }

    String keyColumns() {
        return keyColumns;
    }

    boolean numbered() {
        return numbered;
    }

    String ordering() {
        return ordering;
    }

    String shape() {
        return shape;
    }

    Instant deletedAt() {
        return deletedAt;
    }

    int version() {
        return version;
    }

    List<MemberEntity> members() {
        return members;
    }

    String key() {
        return key;
    }

    String label() {
        return label;
    }

    String recordLabel() {
        return recordLabel;
    }

    String recordsLabel() {
        return recordsLabel;
    }

    /** Calls several of its records something else than the rule makes of one. */
    void callSeveral(String label) {
        this.recordsLabel = label;
    }

    String tableName() {
        return tableName;
    }

    Optional<String> mainField() {
        return Optional.ofNullable(mainField);
    }

    Optional<String> runningField() {
        return Optional.ofNullable(runningField);
    }

    String titleField() {
        return titleField;
    }

    boolean newestFirst() {
        return newestFirst;
    }

    List<FieldEntity> fields() {
        return fields;
    }

    /** The fields that were removed and can be brought back, the latest last. */
    List<FieldEntity> removedFields() {
        return removedFields;
    }
}
