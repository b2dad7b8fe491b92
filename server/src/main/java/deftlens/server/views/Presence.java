package deftlens.server.views;

import deftlens.server.people.SignedIn;
import java.time.Duration;
import java.util.List;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;

/**
 * Who has a view open just now, whatever server their page speaks to. Pages say so every few seconds; one that falls silent does not count
 * any more. The time is the database's.
 */
@Component
class Presence {

    private static final Duration SILENCE = Duration.ofSeconds(25);

    /** More than anybody has open; what fell silent is taken out every now and then. */
    private static final int MOST_PAGES_OF_ONE = 1_000;

    private final JdbcTemplate database;

    Presence(JdbcTemplate database) {
        this.database = database;
    }

    /** Somebody who has the view open; {@code changing} when they have changes that are not kept. */
    record Present(long person, boolean changing) {}

    /** Notes that a page is open, and tells who else has the view open. */
    List<Present> open(long view, SignedIn who, String page, boolean changing) {
        if (who.watcher().isEmpty()) {
            database.update("""
                    insert into open_page (person_id, page, view_id, changing, seen_at)
                    select ?, ?, ?, ?, clock_timestamp()
                    where (select count(*) from open_page p where p.person_id = ?) < ?
                    on conflict (person_id, page) do update
                    set view_id = excluded.view_id, changing = excluded.changing, seen_at = excluded.seen_at""", who.id(), page, view, changing, who.id(), MOST_PAGES_OF_ONE);
        }
        return database.query(
                """
                select person_id, bool_or(changing) from open_page
                where view_id = ? and person_id <> ? and seen_at > clock_timestamp() - ? * interval '1 second'
                group by 1 order by 1""", (row, n) -> new Present(row.getLong(1), row.getBoolean(2)), view, who.id(), SILENCE.toSeconds());
    }

    /** Notes that a page is left. */
    void leave(SignedIn who, String page) {
        database.update("delete from open_page where person_id = ? and page = ?", who.id(), page);
    }

    /** Takes out the pages that fell silent. */
    void forget() {
        database.update(
                "delete from open_page where seen_at < clock_timestamp() - ? * interval '1 second'",
                SILENCE.toSeconds());
    }
}
