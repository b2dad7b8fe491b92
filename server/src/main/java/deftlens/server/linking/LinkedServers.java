package deftlens.server.linking;

import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.registers.Attaching;
import deftlens.server.registers.ForeignTableMetadata;
import deftlens.server.registers.Keys;
import deftlens.server.trail.Trail;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.ObjectMapper;

/**
 * Other PostgreSQL servers, linked so that their tables can be attached as registers where they stand. Only administrators
 * link; nothing is ever written to a linked server.
 */
@Service
public class LinkedServers {

    private static final int MOST_TABLES = 500;

    private final LinkedServerStore store;
    private final ForeignTables tables;
    private final Trail trail;
    private final Clock clock;
    private final ObjectMapper json;
    private final Attaching attaching;

    LinkedServers(
            LinkedServerStore store,
            ForeignTables tables,
            Trail trail,
            Clock clock,
            ObjectMapper json,
            Attaching attaching) {
        this.store = store;
        this.tables = tables;
        this.trail = trail;
        this.clock = clock;
        this.json = json;
        this.attaching = attaching;
    }

    /** A table by its names on the other server. */
    public record Named(String schema, String table) {}

    /**
     * A table that could be linked.
     *
     * @param rows about how many rows it has; negative where that server does not know
     * @param linked whether it can be read here already
     */
    public record Offered(
            String schema, String table, String kind, String comment, long rows, int columns, boolean linked) {}

    /**
     * What a server has.
     *
     * @param version what it says of itself
     * @param comparesAlike whether it folds letters as this database does, so that texts can be compared there
     */
    public record Look(String version, boolean comparesAlike, List<Offered> tables) {}

    /**
     * A table of a linked server.
     *
     * @param table its name here, in the schema that is called like the server's key
     * @param register the register that it is attached as, if it is
     */
    public record Laid(String table, String sourceSchema, String sourceTable, long rows, Optional<String> register) {}

    /** A linked server; its password is never given away. */
    public record Linked(String key, String label, Address address, Instant readAt, List<Laid> tables) {}

    /** What is known of tables that stand on linked servers. */
    @Service
    static class Knowledge implements ForeignTableMetadata {

        private final LinkedServerStore store;
        private final ObjectMapper json;

        Knowledge(LinkedServerStore store, ObjectMapper json) {
            this.store = store;
            this.json = json;
        }

        @Override
        @Transactional(readOnly = true)
        public Optional<Known> known(String schema, String table) {
            return store.findByKey(schema).stream()
                    .flatMap(s -> s.tables().stream())
                    .filter(t -> t.name().equals(table))
                    .findFirst()
                    .map(t -> new Known(
                            List.of(json.readValue(t.keyColumns(), String[].class)),
                            t.aboutRows(),
                            json.readValue(t.choices(), new TypeReference<Map<String, List<String>>>() {})));
        }
    }

    /** What a server has that is not linked yet; nothing is kept of it. */
    public Look look(Address address, String password, SignedIn who) {
        requireAdministrator(who);
        try (RemoteServer server = RemoteServer.open(address, password)) {
            return look(server, List.of());
        }
    }

    /** What a linked server has. */
    @Transactional(readOnly = true)
    public Look look(String key, SignedIn who) {
        requireAdministrator(who);
        LinkedServer linked = get(key);
        try (RemoteServer server = RemoteServer.open(linked.address(), tables.password(linked))) {
            return look(server, linked.tables());
        }
    }

    private Look look(RemoteServer server, List<LinkedTable> linked) {
        return new Look(
                server.version(),
                server.folding().equals(tables.folding()),
                server.tables().stream()
                        .map(t -> new Offered(
                                t.schema(),
                                t.table(),
                                t.kind(),
                                t.comment(),
                                t.rows(),
                                t.columns().size(),
                                linked.stream().anyMatch(l -> l.isOf(t.schema(), t.table()))))
                        .toList());
    }

    /** The linked servers. */
    @Transactional(readOnly = true)
    public List<Linked> all(SignedIn who) {
        requireAdministrator(who);
        Map<String, String> attached = attached(who);
        return store.findAllByOrderByLabel().stream()
                .map(s -> linked(s, attached))
                .toList();
    }

    /** Links a server and lays out the tables that are wanted of it. */
    @Transactional
    public Linked link(String label, Address address, String password, List<Named> wanted, SignedIn who) {
        requireAdministrator(who);
        try (RemoteServer remote = RemoteServer.open(address, password)) {
            Instant now = clock.instant();
            LinkedServer server = new LinkedServer(freeKey(label), label.strip(), address, now);
            tables.link(server, password);
            lay(server, remote, wanted);
            server = store.saveAndFlush(server);
            trail.write(Optional.of(who.id()), "linked server", server.id(), "linked", null, address);
            return linked(server, Map.of());
        }
    }

    /** Lays out these tables of a linked server, as they are there now; those that are not named go. */
    @Transactional
    public Linked choose(String key, List<Named> wanted, SignedIn who) {
        requireAdministrator(who);
        LinkedServer server = get(key);
        Map<String, String> attached = attached(who);
        for (LinkedTable table : server.tables()) {
            String register = attached.get(server.key() + "." + table.name());
            if (register != null && wanted.stream().noneMatch(w -> table.isOf(w.schema(), w.table()))) {
                throw Problem.unprocessable(
                        "attached",
                        "“" + table.name() + "” is attached as the register “" + register
                                + "”. Delete that register first.");
            }
        }
        List<Named> before = named(server);
        try (RemoteServer remote = RemoteServer.open(server.address(), tables.password(server))) {
            lay(server, remote, wanted);
        }
        store.saveAndFlush(server);
        trail.write(Optional.of(who.id()), "linked server", server.id(), "tables chosen", before, wanted);
        return linked(server, attached);
    }

    /** Reaches a linked server otherwise from now on; that way is tried first. */
    @Transactional
    public Linked reach(String key, Address address, String password, SignedIn who) {
        requireAdministrator(who);
        LinkedServer server = get(key);
        Address before = server.address();
        try (RemoteServer remote = RemoteServer.open(address, password)) {
            server.reachAt(address);
            tables.reach(server, password);
            lay(server, remote, named(server));
        }
        store.saveAndFlush(server);
        trail.write(Optional.of(who.id()), "linked server", server.id(), "address changed", before, address);
        return linked(server, attached(who));
    }

    /** Forgets a server that no register is read from. */
    @Transactional
    public void unlink(String key, SignedIn who) {
        requireAdministrator(who);
        LinkedServer server = get(key);
        Map<String, String> attached = attached(who);
        List<String> registers = server.tables().stream()
                .map(t -> attached.get(server.key() + "." + t.name()))
                .filter(java.util.Objects::nonNull)
                .toList();
        if (!registers.isEmpty()) {
            throw Problem.unprocessable(
                    "attached",
                    "Registers are read from this server: " + String.join(", ", registers) + ". Delete them first.");
        }
        tables.unlink(server);
        store.delete(server);
        trail.write(Optional.of(who.id()), "linked server", server.id(), "unlinked", server.address(), null);
    }

    private static List<Named> named(LinkedServer server) {
        return server.tables().stream()
                .map(t -> new Named(t.sourceSchema(), t.sourceTable()))
                .toList();
    }

    private void lay(LinkedServer server, RemoteServer remote, List<Named> wanted) {
        if (wanted.isEmpty()) {
            throw Problem.unprocessable("no-table", "Choose at least one table.");
        }
        if (wanted.size() > MOST_TABLES) {
            throw Problem.unprocessable("too-many", "Choose at most " + MOST_TABLES + " tables.");
        }
        Map<Named, RemoteTable> there =
                remote.tables().stream().collect(Collectors.toMap(t -> new Named(t.schema(), t.table()), t -> t));
        Map<String, RemoteTable> chosen = new LinkedHashMap<>();
        for (Named name : wanted.stream().distinct().toList()) {
            RemoteTable table = there.get(name);
            if (table == null) {
                throw Problem.unprocessable(
                        "no-such-table",
                        "The server has no table “" + name.schema() + "." + name.table()
                                + "”, or the role may not read it.");
            }
            chosen.put(name(server, name, wanted), table);
        }
        tables.lay(server, chosen, remote.folding().equals(tables.folding()));
        List<LinkedTable> laid = new ArrayList<>();
        chosen.forEach((name, table) -> laid.add(new LinkedTable(
                name, table, json.writeValueAsString(table.keyColumns()), json.writeValueAsString(table.choices()))));
        server.read(laid, clock.instant());
    }

    /** The name that a table has here: the one it had, its own, or one with its schema where two are called alike. */
    private static String name(LinkedServer server, Named name, List<Named> wanted) {
        Optional<String> had = server.tables().stream()
                .filter(t -> t.isOf(name.schema(), name.table()))
                .map(LinkedTable::name)
                .findFirst();
        boolean alone =
                wanted.stream().filter(w -> w.table().equals(name.table())).count() == 1
                        && server.tables().stream().noneMatch(t -> t.name().equals(name.table()));
        return had.orElse(alone ? name.table() : name.schema() + "." + name.table());
    }

    private Linked linked(LinkedServer server, Map<String, String> attached) {
        return new Linked(
                server.key(),
                server.label(),
                server.address(),
                server.readAt(),
                server.tables().stream()
                        .map(t -> new Laid(
                                t.name(),
                                t.sourceSchema(),
                                t.sourceTable(),
                                t.aboutRows(),
                                Optional.ofNullable(attached.get(server.key() + "." + t.name()))))
                        .toList());
    }

    private Map<String, String> attached(SignedIn who) {
        Map<String, String> attached = new LinkedHashMap<>();
        attaching
                .attachable(who)
                .forEach(a -> a.register().ifPresent(r -> attached.put(a.schema() + "." + a.table(), r)));
        return attached;
    }

    private String freeKey(String label) {
        String key = Keys.of(label.strip());
        String free = key;
        for (int i = 2; tables.isSchema(free) || store.findByKey(free).isPresent(); i++) {
            free = key + "_" + i;
        }
        return free;
    }

    private LinkedServer get(String key) {
        return store.findByKey(key).orElseThrow(() -> Problem.notFound("The linked server “" + key + "”"));
    }

    private static void requireAdministrator(SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator can link servers.");
        }
    }
}
