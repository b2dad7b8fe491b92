package deftlens.server.registers;

import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * What is known of tables that stand on another server: PostgreSQL keeps no keys, choices or numbers of rows for a foreign
 * table.
 */
public interface ForeignTableMetadata {

    /**
     * What the other server says of a table.
     *
     * @param keyColumns the columns that tell its rows apart; empty where it has no key
     * @param rows about how many rows it has; negative where that server does not know
     * @param choices the values that a column may have, for columns where the server limits them
     */
    record Known(List<String> keyColumns, long rows, Map<String, List<String>> choices) {}

    /** What is known of a table by its schema and name here, if it stands on a linked server. */
    Optional<Known> known(String schema, String table);
}
