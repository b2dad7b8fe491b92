package deftlens.server.people;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;

/** Something that is known of people, and that statements name as {@code my …}. */
@Entity
@Table(name = "viewer_attribute")
class ViewerAttribute {

    @Id
    private String key;

    private String label;
    private String description;
    private int position;

    protected ViewerAttribute() {}

    ViewerAttribute(String key, String label, String description, int position) {
        this.key = key;
        describe(label, description, position);
    }

    void describe(String newLabel, String newDescription, int newPosition) {
        this.label = newLabel;
        this.description = newDescription;
        this.position = newPosition;
    }

    String key() {
        return key;
    }

    String label() {
        return label;
    }

    String description() {
        return description;
    }
}
