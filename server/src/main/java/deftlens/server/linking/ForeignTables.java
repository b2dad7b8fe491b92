package deftlens.server.linking;

import deftlens.core.sql.Sql;
import deftlens.server.platform.Problem;
import jakarta.persistence.EntityManager;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.stereotype.Component;

/**
 * Lays the tables of another server out as foreign tables (postgres_fdw), so that every question is put where the records
 * are. The other side is told to refuse writing, and so is this one.
 */
@Component
class ForeignTables {

    /** A text that is compared here and not on the other server. */
    private static final String COMPARED_HERE = "text_compared_here";

    private static final String RIGHT_MISSING = "42501";
    private static final String STILL_USED = "2BP01";

    private final EntityManager entities;

    ForeignTables(EntityManager entities) {
        this.entities = entities;
    }

    /** Makes the database's own objects for a server: where it is, and how to sign in. */
    void link(LinkedServer server, String password) {
        run(
                "create extension if not exists postgres_fdw",
                "create schema " + Sql.identifier(server.key()),
                "create server " + name(server) + " foreign data wrapper postgres_fdw options ("
                        + options(server.address(), "")
                        + ", updatable 'false', truncatable 'false', fetch_size '1000', "
                        + "use_remote_estimate 'true', connect_timeout '6', application_name 'Deft Lens', "
                        + "options '-c default_transaction_read_only=on')",
                "create user mapping for current_user server " + name(server) + " options (user "
                        + literal(server.address().role()) + ", password " + literal(password) + ")");
    }

    /** Tells the database that a server is reached otherwise from now on. */
    void reach(LinkedServer server, String password) {
        run(
                "alter server " + name(server) + " options (" + options(server.address(), "set ") + ")",
                "alter user mapping for current_user server " + name(server) + " options (set user "
                        + literal(server.address().role()) + ", set password " + literal(password) + ")");
    }

    /** Takes away everything that the database knows of a server. */
    void unlink(LinkedServer server) {
        clear(server);
        run(
                "drop user mapping for current_user server " + name(server),
                "drop server " + name(server),
                "drop schema " + Sql.identifier(server.key()));
    }

    private static String name(LinkedServer server) {
        return Sql.identifier(server.serverName());
    }

    private static String options(Address address, String set) {
        return set + "host " + literal(address.host()) + ", " + set + "port " + literal("" + address.port()) + ", "
                + set + "dbname " + literal(address.database()) + ", " + set + "sslmode "
                + literal(address.encryption().sslMode());
    }

    /** The password that a server is signed in to with. */
    String password(LinkedServer server) {
        List<?> found = entities.createNativeQuery("""
                        select substr(o, 10) from pg_user_mappings m cross join unnest(m.umoptions) o
                        where m.srvname = ?1 and m.usename = current_user and o like 'password=%'""")
                .setParameter(1, server.serverName())
                .getResultList();
        return found.isEmpty() ? "" : (String) found.get(0);
    }

    /** How this database folds letters. */
    String folding() {
        return (String) entities.createNativeQuery(RemoteServer.FOLDING).getSingleResult();
    }

    /** Whether a schema of that name is there. */
    boolean isSchema(String name) {
        return !entities.createNativeQuery("select 1 from pg_namespace where nspname = ?1")
                .setParameter(1, name)
                .getResultList()
                .isEmpty();
    }

    private void clear(LinkedServer server) {
        String schema = Sql.identifier(server.key()) + ".";
        List<String> ddl = new ArrayList<>();
        for (Object table :
                entities.createNativeQuery("""
                        select c.relname from pg_class c join pg_namespace n on n.oid = c.relnamespace
                        where n.nspname = ?1 and c.relkind = 'f'""").setParameter(1, server.key()).getResultList()) {
            ddl.add("drop foreign table " + schema + Sql.identifier((String) table));
        }
        for (Object domain :
                entities.createNativeQuery("""
                        select t.typname from pg_type t join pg_namespace n on n.oid = t.typnamespace
                        where n.nspname = ?1 and t.typtype = 'd'""").setParameter(1, server.key()).getResultList()) {
            ddl.add("drop domain " + schema + Sql.identifier((String) domain));
        }
        run(ddl.toArray(String[]::new));
    }

    /**
     * Lays out the tables of a server anew.
     *
     * @param tables the tables by the names that they get here
     * @param alike whether the other server folds letters as this one does; where it does not, texts are compared here
     */
    void lay(LinkedServer server, Map<String, RemoteTable> tables, boolean alike) {
        clear(server);
        List<String> ddl = new ArrayList<>();
        Map<String, Boolean> known = new LinkedHashMap<>();
        Set<String> domains = new LinkedHashSet<>();
        List<String> made = new ArrayList<>();
        tables.forEach((name, table) -> {
            String here = Sql.identifier(server.key()) + "." + Sql.identifier(name);
            List<String> comments = new ArrayList<>();
            comments.add("comment on foreign table " + here + " is " + literal(table.comment()));
            String columns = table.columns().stream()
                    .map(c -> {
                        Optional<String> domain = domain(c, alike, known);
                        domain.ifPresent(domains::add);
                        if (!c.comment().isEmpty()) {
                            comments.add("comment on column " + here + "." + Sql.identifier(c.name()) + " is "
                                    + literal(c.comment()));
                        }
                        return Sql.identifier(c.name()) + " "
                                + domain.map(d -> Sql.identifier(server.key()) + "." + Sql.identifier(d))
                                        .orElse(c.type())
                                + (c.list() ? "[]" : "") + (c.required() ? " not null" : "");
                    })
                    .collect(Collectors.joining(", "));
            made.add("create foreign table " + here + " (" + columns + ") server " + name(server)
                    + " options (schema_name " + literal(table.schema()) + ", table_name " + literal(table.table())
                    + ")");
            made.addAll(comments);
        });
        domains.forEach(
                d -> ddl.add("create domain " + Sql.identifier(server.key()) + "." + Sql.identifier(d) + " as text"));
        ddl.addAll(made);
        run(ddl.toArray(String[]::new));
    }

    /**
     * A type that only the other server knows becomes a domain of that name over text: it can be read and compared, and as
     * no operator of the other server is known for it, it is compared here.
     */
    private Optional<String> domain(RemoteTable.Column column, boolean alike, Map<String, Boolean> known) {
        if (column.builtIn() && known.computeIfAbsent(column.type(), this::isType)) {
            return column.text() && !alike ? Optional.of(COMPARED_HERE) : Optional.empty();
        }
        String plain = column.type().replaceAll("\\(.*\\)", "").replace("\"", "");
        String name = plain.substring(plain.lastIndexOf('.') + 1);
        return Optional.of(name.isBlank() ? COMPARED_HERE : name);
    }

    private boolean isType(String type) {
        return entities.createNativeQuery("select to_regtype(?1) is not null")
                .setParameter(1, type)
                .getSingleResult()
                .equals(true);
    }

    /** Runs statements that take no parameters; texts in them are quoted by {@link #literal}. */
    private void run(String... statements) {
        entities.unwrap(Session.class).doWork(connection -> {
            for (String sql : statements) {
                run(connection, sql);
            }
        });
    }

    private static void run(Connection connection, String sql) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.setEscapeProcessing(false);
            statement.execute(sql);
        } catch (SQLException e) {
            switch (String.valueOf(e.getSQLState())) {
                case RIGHT_MISSING ->
                    throw Problem.unprocessable(
                            "right-missing",
                            "The database does not let Deft Lens link servers. Its administrator can allow it: create extension "
                                    + "postgres_fdw; grant usage on foreign data wrapper postgres_fdw to "
                                    + user(connection) + ";");
                case STILL_USED ->
                    throw Problem.unprocessable(
                            "still-used",
                            "Something else in the database is made from a table of this server and would break: "
                                    + e.getMessage());
                default -> throw e;
            }
        }
    }

    private static String user(Connection connection) throws SQLException {
        return connection.getMetaData().getUserName();
    }

    /** A text as SQL takes it. */
    static String literal(String text) {
        if (text.indexOf('\0') >= 0) {
            throw Problem.badRequest("bad-value", "A zero byte cannot be part of this.");
        }
        // Backslashes mean nothing in a plain literal: standard_conforming_strings is on.
        return "'" + text.replace("'", "''") + "'";
    }
}
