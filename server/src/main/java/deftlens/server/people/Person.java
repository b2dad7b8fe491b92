package deftlens.server.people;

import jakarta.persistence.CollectionTable;
import jakarta.persistence.Column;
import jakarta.persistence.ElementCollection;
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
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import org.hibernate.annotations.Fetch;
import org.hibernate.annotations.FetchMode;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.annotations.OptimisticLock;
import org.hibernate.type.SqlTypes;

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

    @ElementCollection
    @CollectionTable(name = "viewer_value", joinColumns = @JoinColumn(name = "person_id"))
    @OrderBy("attribute, position")
    @Fetch(FetchMode.SUBSELECT)
    private List<ViewerValue> values = new ArrayList<>();

    private boolean active = true;

    @Column(name = "left_at")
    private Instant leftAt;

    // What a person does with their own page is no change for whoever edits the person meanwhile.
    @Column(name = "letter_keys")
    @OptimisticLock(excluded = true)
    private boolean letterKeys = true;

    @JdbcTypeCode(SqlTypes.JSON)
    @Column(name = "list_arrangement")
    @OptimisticLock(excluded = true)
    private ListArrangement listArrangement;

    @Column(name = "must_change_password")
    private boolean mustChangePassword;

    private String subject;

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

    Person(String name, String passwordHash) {
        this.name = name;
        this.passwordHash = passwordHash;
    }

    /** Writes what an administrator says of a person. */
    void describe(String newFullName, Role newRole, Map<String, List<String>> newValues, List<Team> newTeams) {
        this.fullName = newFullName;
        this.role = newRole;
        List<ViewerValue> all = new ArrayList<>();
        newValues.forEach((attribute, each) -> {
            for (int i = 0; i < each.size(); i++) {
                all.add(new ViewerValue(attribute, i, each.get(i)));
            }
        });
        if (!Set.copyOf(all).equals(Set.copyOf(values))) {
            values.clear();
            values.addAll(all);
        }
        if (!Set.copyOf(newTeams).equals(Set.copyOf(teams))) {
            teams.clear();
            teams.addAll(newTeams);
        }
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

    /** Sets a password; one that somebody else chose has to be changed at the next sign-in. */
    void changePassword(String hash, boolean bySomebodyElse) {
        this.passwordHash = hash;
        this.mustChangePassword = bySomebodyElse;
    }

    boolean mustChangePassword() {
        return mustChangePassword;
    }

    /** Whether keys of one letter do something on the desk. */
    boolean letterKeys() {
        return letterKeys;
    }

    /** Switches keys of one letter on or off. */
    void useLetterKeys(boolean on) {
        this.letterKeys = on;
    }

    /** How the person has the list of views and registers. */
    ListArrangement listArrangement() {
        return listArrangement == null ? ListArrangement.USUAL : listArrangement;
    }

    /** Arranges the list of views and registers. */
    void arrangeList(ListArrangement arrangement) {
        this.listArrangement = arrangement;
    }

    Role role() {
        return role;
    }

    /** The values of each attribute, in their order. */
    Map<String, List<String>> values() {
        Map<String, List<String>> found = new TreeMap<>();
        values.stream()
                .sorted(Comparator.comparingInt(ViewerValue::position))
                .forEach(v -> found.computeIfAbsent(v.attribute(), a -> new ArrayList<>())
                        .add(v.value()));
        return found;
    }

    boolean active() {
        return active;
    }

    Instant leftAt() {
        return leftAt;
    }

    void leave(Instant at) {
        this.active = false;
        this.leftAt = at;
    }

    void comeBack() {
        this.active = true;
        this.leftAt = null;
    }

    String subject() {
        return subject;
    }

    /** Says who this is at the identity provider; null for nobody. */
    void linkTo(String newSubject) {
        this.subject = newSubject;
    }

    int version() {
        return version;
    }

    List<Team> teams() {
        return teams;
    }
}
