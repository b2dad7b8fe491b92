package deftlens.server.sums;

import deftlens.core.sql.KeptSums;
import jakarta.persistence.EntityManager;
import jakarta.persistence.Query;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.hibernate.Session;
import org.springframework.stereotype.Component;

/** Of which registers sums are kept, and the statements that keep them. */
@Component
class SumsStore {

    private final EntityManager entities;

    SumsStore(EntityManager entities) {
        this.entities = entities;
    }

    /**
     * What is kept of a register.
     *
     * @param keys the keys of the fields that sums are told apart by
     * @param amounts the keys of the numbers that are added up
     * @param main the key of the date whose days they are told apart by
     * @param zone what makes a moment's day
     */
    record Kept(List<String> keys, List<String> amounts, String main, String zone) {}

    Optional<Kept> find(long register) {
        List<?> rows = entities.createNativeQuery(
                        "select array_to_string(keys, ' '), array_to_string(amounts, ' '), main_field, zone from kept_sums"
                                + " where register_id = ?1")
                .setParameter(1, register)
                .getResultList();
        return rows.stream()
                .findFirst()
                .map(Object[].class::cast)
                .map(row -> new Kept(words(row[0]), words(row[1]), (String) row[2], (String) row[3]));
    }

    /**
     * About how many rows a table has; 0 where the database has not looked yet.
     *
     * @param table as SQL
     */
    long rows(String table) {
        return ((Number) entities.createNativeQuery(
                                "select coalesce(max(greatest(cast(reltuples as bigint), 0)), 0) from pg_class"
                                        + " where oid = to_regclass(?1)")
                        .setParameter(1, table)
                        .getSingleResult())
                .longValue();
    }

    /** The keys of the registers of which sums are kept. */
    List<String> registers() {
        List<?> rows = entities.createNativeQuery("select key from kept_sums order by key")
                .getResultList();
        return rows.stream().map(String.class::cast).toList();
    }

    void put(long register, String key, Kept kept) {
        entities.createNativeQuery("""
                        insert into kept_sums (register_id, key, keys, amounts, main_field, zone)
                        values (?1, ?6, string_to_array(?2, ' '), string_to_array(?3, ' '), ?4, ?5)
                        on conflict (register_id) do update set keys = excluded.keys, amounts = excluded.amounts,
                            main_field = excluded.main_field, zone = excluded.zone, kept_at = now()""")
                .setParameter(1, register)
                .setParameter(2, String.join(" ", kept.keys()))
                .setParameter(3, String.join(" ", kept.amounts()))
                .setParameter(4, kept.main())
                .setParameter(5, kept.zone())
                .setParameter(6, key)
                .executeUpdate();
    }

    void remove(long register) {
        entities.createNativeQuery("delete from kept_sums where register_id = ?1")
                .setParameter(1, register)
                .executeUpdate();
    }

    /** Adds some changes to the base, and takes out what has come to nothing. */
    void fold(KeptSums sums, int most) {
        Query fold = entities.createNativeQuery(sums.fold(most).text(n -> "?" + (n + 1)));
        int at = 1;
        for (Object value : sums.fold(most).values()) {
            fold.setParameter(at++, value);
        }
        if (((Number) fold.getSingleResult()).longValue() > 0) {
            entities.createNativeQuery(sums.tidy()).executeUpdate();
        }
    }

    /** Runs statements that have no values. */
    void execute(List<String> statements) {
        entities.flush();
        entities.unwrap(Session.class).doWork(connection -> {
            try (var statement = connection.createStatement()) {
                for (String sql : statements) {
                    statement.execute(sql);
                }
            }
        });
    }

    private static List<String> words(Object text) {
        String words = text == null ? "" : text.toString();
        return words.isEmpty() ? List.of() : Arrays.asList(words.split(" "));
    }
}
