package deftlens.server.people;

import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import jakarta.persistence.Version;

/** People who work together and can be shared with together. */
@Entity
@Table(name = "team")
class Team {

    @Id
    @GeneratedValue(strategy = GenerationType.IDENTITY)
    private Long id;

    private String name;

    @Version
    private int version;

    protected Team() {}

    Team(String name) {
        this.name = name;
    }

    Long id() {
        return id;
    }

    String name() {
        return name;
    }

    void rename(String newName) {
        this.name = newName;
    }

    int version() {
        return version;
    }
}
