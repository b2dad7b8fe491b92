package deftlens.server.linking;

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
import jakarta.persistence.OrderBy;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;

/** Another PostgreSQL server whose tables can be read here. The password is not here but in the database's user mapping. */
@Entity
@Table(name = "linked_server")
class LinkedServer {

    @Id
    @GeneratedValue(strategy = GenerationType.IDENTITY)
    private Long id;

    private String key;
    private String label;
    private String host;
    private int port;
    private String database;
    private String role;

    @Enumerated(EnumType.STRING)
    private Encryption encryption;

    @Column(name = "created_at")
    private Instant createdAt;

    @Column(name = "read_at")
    private Instant readAt;

    @ElementCollection(fetch = FetchType.EAGER)
    @CollectionTable(name = "linked_table", joinColumns = @JoinColumn(name = "linked_server_id"))
    @OrderBy("name")
    private List<LinkedTable> tables = new ArrayList<>();

    protected LinkedServer() {}

    LinkedServer(String key, String label, Address address, Instant now) {
        this.key = key;
        this.label = label;
        this.createdAt = now;
        this.readAt = now;
        reachAt(address);
    }

    long id() {
        return id;
    }

    String key() {
        return key;
    }

    String label() {
        return label;
    }

    Address address() {
        return new Address(host, port, database, role, encryption);
    }

    Instant readAt() {
        return readAt;
    }

    List<LinkedTable> tables() {
        return tables;
    }

    /** The name of the database's own object for it. */
    String serverName() {
        return "deft_" + key;
    }

    final void reachAt(Address address) {
        this.host = address.host();
        this.port = address.port();
        this.database = address.database();
        this.role = address.role();
        this.encryption = address.encryption();
    }

    void read(List<LinkedTable> fresh, Instant now) {
        tables.clear();
        tables.addAll(fresh);
        readAt = now;
    }
}
