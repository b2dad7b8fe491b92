package deftlens.server.values;

import deftlens.core.sql.Sql;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;

/** Runs statements of the core on a connection, in its transaction: those that write records. Questions go through their own runner. */
public final class Statements {

    private Statements() {}

    /** Runs a statement that gives no rows, and says how many rows it touched. */
    public static long update(Connection connection, Sql sql) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(sql.text())) {
            Parameters.bind(statement, 1, sql.values());
            return statement.executeLargeUpdate();
        }
    }

    /** All rows that a statement gives. */
    public static <T> List<T> list(Connection connection, Sql sql, RowReader<T> reader) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(sql.text())) {
            Parameters.bind(statement, 1, sql.values());
            List<T> found = new ArrayList<>();
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    found.add(reader.read(rows));
                }
            }
            return found;
        }
    }

    /** The one number that a statement gives. */
    public static long number(Connection connection, Sql sql) throws SQLException {
        return list(connection, sql, row -> row.getLong(1)).getFirst();
    }
}
