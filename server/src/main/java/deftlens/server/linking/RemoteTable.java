package deftlens.server.linking;

import java.util.List;
import java.util.Map;

/**
 * A table as another server describes it.
 *
 * @param kind table, view, materialised view or foreign table
 * @param rows about how many rows it has; negative where that server does not know
 * @param keyColumns the columns that tell its rows apart; empty where it has no key
 */
public record RemoteTable(
        String schema,
        String table,
        String kind,
        String comment,
        long rows,
        List<String> keyColumns,
        List<Column> columns) {

    /**
     * A column of it.
     *
     * @param type the type as PostgreSQL writes it, domains resolved
     * @param builtIn whether every PostgreSQL knows that type
     * @param list whether it is an array of that type
     * @param choices the values that the other server allows in it; empty for no limit
     */
    public record Column(
            String name,
            String type,
            boolean builtIn,
            boolean list,
            boolean text,
            boolean required,
            String comment,
            List<String> choices) {}

    /** The values that its columns may have, for columns where they are limited. */
    Map<String, List<String>> choices() {
        return columns.stream()
                .filter(c -> !c.choices().isEmpty())
                .collect(java.util.stream.Collectors.toMap(Column::name, Column::choices));
    }
}
