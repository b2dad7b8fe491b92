package deftlens.server.values;

import java.sql.ResultSet;
import java.sql.SQLException;

/** Makes something of one row of a query's result; called once for each row, in order. */
@FunctionalInterface
public interface RowReader<T> {

    /** @param row at the row to read; it must not be moved, nor kept */
    T read(ResultSet row) throws SQLException;
}
