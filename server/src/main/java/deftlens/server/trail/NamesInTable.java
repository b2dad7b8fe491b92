package deftlens.server.trail;

import java.util.HashMap;
import java.util.Map;
import java.util.Set;
import org.springframework.jdbc.core.JdbcTemplate;

/** Names that stand in a column beside the number. */
public record NamesInTable(String subject, String table, String column, JdbcTemplate database) implements Named {

    @Override
    public Map<Long, String> names(Set<Long> ids) {
        Map<Long, String> names = new HashMap<>();
        // The table and column are the feature's own words, and nobody else's.
        database.query(
                "select id, " + column + " from " + table + " where id = any (?)",
                row -> {
                    names.put(row.getLong(1), row.getString(2));
                },
                (Object) ids.toArray(Long[]::new));
        return names;
    }
}
