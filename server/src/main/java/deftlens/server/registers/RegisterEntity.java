package deftlens.server.registers;

import jakarta.persistence.CollectionTable;
import jakarta.persistence.Column;
import jakarta.persistence.ElementCollection;
import jakarta.persistence.Entity;
import jakarta.persistence.FetchType;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.JoinColumn;
import jakarta.persistence.OrderColumn;
import jakarta.persistence.Table;
import java.util.ArrayList;
import java.util.List;

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

    @Column(name = "table_name")
    private String tableName;

    @Column(name = "main_field")
    private String mainField;

    @Column(name = "title_field")
    private String titleField;

    @Column(name = "newest_first")
    private boolean newestFirst;

    private int position;

    @ElementCollection(fetch = FetchType.EAGER)
    @CollectionTable(name = "register_field", joinColumns = @JoinColumn(name = "register_id"))
    @OrderColumn(name = "position")
    private List<FieldEntity> fields = new ArrayList<>();

    protected RegisterEntity() {}

    RegisterEntity(RegisterDefinition definition, int position, List<FieldEntity> fields) {
        this.key = definition.key();
        this.label = definition.label();
        this.recordLabel = definition.recordLabel();
        this.tableName = definition.key();
        this.mainField = definition.mainField();
        this.titleField = definition.titleField();
        this.newestFirst = definition.newestFirst();
        this.position = position;
        this.fields = new ArrayList<>(fields);
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

    String tableName() {
        return tableName;
    }

    String mainField() {
        return mainField;
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
}
