package deftlens.server.linking;

import deftlens.server.platform.Problem;
import deftlens.server.registers.SystemCatalogue;
import java.net.ConnectException;
import java.net.NoRouteToHostException;
import java.net.SocketTimeoutException;
import java.net.UnknownHostException;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.postgresql.ds.PGSimpleDataSource;

/** Asks another PostgreSQL server what tables it has. It is only read, and given up on after some seconds. */
final class RemoteServer implements AutoCloseable {

    private static final int CONNECT_SECONDS = 6;
    private static final int ANSWER_SECONDS = 30;

    /** Every letter of the basic plane, folded to its small one; two servers that agree on it compare texts alike. */
    static final String FOLDING = """
            select md5(string_agg(lower(chr(i)), '' order by i)) from generate_series(1, 65535) i
            where i not between 55296 and 57343""";

    private final Connection connection;

    private RemoteServer(Connection connection) {
        this.connection = connection;
    }

    /**
     * Signs in to a server.
     *
     * @throws Problem that says what to mend, where it cannot be reached or does not let the role in
     */
    static RemoteServer open(Address address, String password) {
        PGSimpleDataSource source = new PGSimpleDataSource();
        source.setServerNames(new String[] {address.host()});
        source.setPortNumbers(new int[] {address.port()});
        source.setDatabaseName(address.database());
        source.setUser(address.role());
        source.setPassword(password);
        source.setSslMode(address.encryption().sslMode());
        source.setConnectTimeout(CONNECT_SECONDS);
        source.setLoginTimeout(CONNECT_SECONDS + 2);
        source.setSocketTimeout(ANSWER_SECONDS);
        source.setReadOnly(true);
        source.setApplicationName("Deft Lens");
        try {
            Connection connection = source.getConnection();
            connection.setReadOnly(true);
            return new RemoteServer(connection);
        } catch (SQLException e) {
            throw refusal(address, e);
        }
    }

    private static Problem refusal(Address address, SQLException e) {
        String where = address.host() + ", port " + address.port();
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            switch (cause) {
                case UnknownHostException unknown -> {
                    return refused("no-such-host", "There is no host “" + address.host() + "”. Check its name.");
                }
                case SocketTimeoutException timeout -> {
                    return refused(
                            "no-answer",
                            "Nothing answers at " + where + " within " + CONNECT_SECONDS
                                    + " seconds. Check the address, and that a firewall lets this server through.");
                }
                case ConnectException unreachable -> {
                    return notListening(where);
                }
                case NoRouteToHostException unreachable -> {
                    return notListening(where);
                }
                default -> {
                    // The next cause may tell more.
                }
            }
        }
        String state = e.getSQLState() == null ? "" : e.getSQLState();
        return switch (state) {
            case "28P01" ->
                refused("wrong-password", "The role “" + address.role() + "” or its password is not right.");
            case "28000" ->
                refused(
                        "not-let-in",
                        "The server does not let “" + address.role()
                                + "” in from here. Its administrator can allow it in pg_hba.conf. It says: "
                                + e.getMessage());
            case "3D000" ->
                refused("no-such-database", "There is no database “" + address.database() + "” at " + where + ".");
            case "53300" ->
                refused("full", "The server at " + where + " takes no more connections just now. Try again.");
            default ->
                refused(
                        "cannot-connect",
                        "PostgreSQL at " + where + " cannot be used: "
                                + String.valueOf(e.getMessage()).strip());
        };
    }

    private static Problem notListening(String where) {
        return refused(
                "not-listening",
                "Nothing listens at " + where
                        + ". Check the port, and that PostgreSQL there accepts connections from other machines.");
    }

    private static Problem refused(String code, String sentence) {
        return Problem.unprocessable(code, sentence);
    }

    /** What it says of itself: {@code 15.4 (Debian …)}. */
    String version() {
        return text("show server_version");
    }

    /** How it folds letters; see {@link #FOLDING}. Empty where it does not store Unicode. */
    String folding() {
        return text("show server_encoding").equals("UTF8") ? text(FOLDING) : "";
    }

    private String text(String sql) {
        try (PreparedStatement statement = connection.prepareStatement(sql);
                ResultSet rows = statement.executeQuery()) {
            rows.next();
            return rows.getString(1);
        } catch (SQLException e) {
            throw unreadable(e);
        }
    }

    private static Problem unreadable(SQLException e) {
        return refused("cannot-be-read", "The other server's list of tables cannot be read: " + e.getMessage());
    }

    /** The tables, views and foreign tables that the role may read, by schema and name. */
    List<RemoteTable> tables() {
        Map<String, RemoteTable> found = new LinkedHashMap<>();
        try (PreparedStatement statement = connection.prepareStatement("""
                        with recursive plain(oid, base, typmod) as (
                            select oid, oid, -1 from pg_type where typtype <> 'd'
                            union all
                            select d.oid, p.base, case when d.typtypmod >= 0 then d.typtypmod else p.typmod end
                            from pg_type d join plain p on p.oid = d.typbasetype where d.typtype = 'd')
                        select n.nspname, c.relname, c.relkind, coalesce(obj_description(c.oid, 'pg_class'), ''),
                               cast(c.reltuples as bigint), a.attname, a.attnotnull,
                               coalesce(col_description(c.oid, a.attnum), ''),
                               format_type(coalesce(e.oid, t.oid), case when a.atttypmod >= 0 then a.atttypmod else p.typmod end),
                               tn.nspname = 'pg_catalog', e.oid is not null,
                               t.typname in ('text', 'varchar', 'bpchar'),
                               array(select l.enumlabel from pg_enum l where l.enumtypid = t.oid order by l.enumsortorder),
                               coalesce((select min(pg_get_constraintdef(k.oid)) from pg_constraint k
                                         where k.conrelid = c.oid and k.contype = 'c' and k.conkey = array[a.attnum]
                                           and pg_get_constraintdef(k.oid) like '%ANY%ARRAY%'), ''),
                               array(select ka.attname from pg_index i
                                     cross join unnest(cast(i.indkey as int2[])) with ordinality k(n, o)
                                     join pg_attribute ka on ka.attrelid = c.oid and ka.attnum = k.n
                                     where i.indexrelid = (
                                         select u.indexrelid from pg_index u where u.indrelid = c.oid and u.indisunique
                                           and u.indpred is null and u.indexprs is null and not exists (
                                               select 1 from unnest(cast(u.indkey as int2[])) w(n)
                                               join pg_attribute wa on wa.attrelid = c.oid and wa.attnum = w.n
                                               where not wa.attnotnull)
                                         order by u.indisprimary desc, u.indnatts limit 1)
                                     order by k.o)
                        from pg_class c
                             join pg_namespace n on n.oid = c.relnamespace
                             join pg_attribute a on a.attrelid = c.oid and a.attnum > 0 and not a.attisdropped
                             join plain p on p.oid = a.atttypid
                             join pg_type b on b.oid = p.base
                             left join pg_type e on b.typcategory = 'A' and e.oid = b.typelem
                             join pg_type t on t.oid = coalesce(e.oid, b.oid)
                             join pg_namespace tn on tn.oid = t.typnamespace
                        where c.relkind in ('r', 'v', 'm', 'f', 'p') and not c.relispartition
                          and n.nspname not like 'pg\\_%' and n.nspname <> 'information_schema'
                          and has_schema_privilege(n.oid, 'usage') and has_table_privilege(c.oid, 'select')
                        order by 1, 2, a.attnum""");
                ResultSet rows = statement.executeQuery()) {
            while (rows.next()) {
                String name = rows.getString(1) + "\n" + rows.getString(2);
                RemoteTable table = found.get(name);
                if (table == null) {
                    table = new RemoteTable(
                            rows.getString(1),
                            rows.getString(2),
                            SystemCatalogue.kind(rows.getString(3)),
                            rows.getString(4),
                            rows.getLong(5),
                            strings(rows, 15),
                            new ArrayList<>());
                    found.put(name, table);
                }
                List<String> labels = strings(rows, 13);
                table.columns()
                        .add(new RemoteTable.Column(
                                rows.getString(6),
                                rows.getString(9),
                                rows.getBoolean(10),
                                rows.getBoolean(11),
                                rows.getBoolean(12),
                                rows.getBoolean(7),
                                rows.getString(8),
                                labels.isEmpty() ? SystemCatalogue.allowedBy(rows.getString(14)) : labels));
            }
        } catch (SQLException e) {
            throw unreadable(e);
        }
        return List.copyOf(found.values());
    }

    private static List<String> strings(ResultSet rows, int column) throws SQLException {
        return Arrays.stream((Object[]) rows.getArray(column).getArray())
                .map(String::valueOf)
                .toList();
    }

    @Override
    public void close() {
        try {
            connection.close();
        } catch (SQLException e) {
            // It is done with either way.
        }
    }
}
