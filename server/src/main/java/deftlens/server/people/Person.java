package deftlens.server.people;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.EnumType;
import jakarta.persistence.Enumerated;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.JoinColumn;
import jakarta.persistence.JoinTable;
import jakarta.persistence.ManyToMany;
import jakarta.persistence.OrderBy;
import jakarta.persistence.Table;
import jakarta.persistence.Version;
import java.util.ArrayList;
import java.util.List;

/** Somebody who can sign in. */
@Entity
@Table(name = "person")
class Person {

    @Id
    @GeneratedValue(strategy = GenerationType.IDENTITY)
    private Long id;

    private String name;

    @Column(name = "full_name")
    private String fullName;

    @Column(name = "password_hash")
    private String passwordHash;

    @Enumerated(EnumType.STRING)
    private Role role;

    private String site;
    private boolean active = true;

    @ManyToMany
    @JoinTable(
            name = "team_member",
            joinColumns = @JoinColumn(name = "person_id"),
            inverseJoinColumns = @JoinColumn(name = "team_id"))
    @OrderBy("name")
    private List<Team> teams = new ArrayList<>();

    @Version
    private int version;

    protected Person() {}

    Person(String name, String fullName, String passwordHash, Role role, String site, List<Team> teams) {
        this.name = name;
        this.fullName = fullName;
        this.passwordHash = passwordHash;
        this.role = role;
        this.site = site;
        this.teams = new ArrayList<>(teams);
    }

    Long id() {
        return id;
    }

    String name() {
        return name;
    }

    String fullName() {
        return fullName;
    }

    String passwordHash() {
        return passwordHash;
    }

    void changePassword(String hash) {
        this.passwordHash = hash;
    }

    Role role() {
        return role;
    }

    String site() {
        return site;
    }

    boolean active() {
        return active;
    }

    List<Team> teams() {
        return teams;
    }
}
