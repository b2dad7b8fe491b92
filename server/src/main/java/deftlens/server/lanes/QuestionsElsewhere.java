package deftlens.server.lanes;

import deftlens.server.platform.Notices;
import java.util.Optional;
import java.util.function.Consumer;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;

/**
 * Questions that other servers work on: told that they are not wanted, and asked how far they are. Only those that turned out slow are
 * noted; the others are answered before anybody could ask.
 */
@Component
class QuestionsElsewhere {

    private static final String STOPPED = "deft_stopped";

    /** No question takes as long, so what is older was left behind by a server that is gone. */
    private static final int LEFT_BEHIND_MINUTES = 10;

    private final JdbcTemplate database;
    private final Notices notices;

    QuestionsElsewhere(JdbcTemplate database, Notices notices) {
        this.database = database;
        this.notices = notices;
    }

    /** Does something with the key of each question that another server was asked to stop. */
    void whenStopped(Consumer<String> stop) {
        notices.listen(STOPPED, stop);
    }

    /** Has every server stop a question, if it is there. */
    void stop(String key) {
        database.queryForList("select pg_notify(?, ?)", STOPPED, key);
    }

    /** Notes where a slow question is. */
    void note(long person, String name, QuestionLanes.Progress progress) {
        database.update("""
                insert into slow_question (person_id, name, place, before, noted_at) values (?, ?, ?, ?, clock_timestamp())
                on conflict (person_id, name) do update
                set place = excluded.place, before = excluded.before, noted_at = excluded.noted_at""", person, name, progress.place(), progress.before());
    }

    /** Forgets a question, and all that were left behind. */
    void forget(long person, String name) {
        database.update(
                "delete from slow_question where person_id = ? and name = ? or noted_at < clock_timestamp() - ? * interval '1 minute'",
                person,
                name,
                LEFT_BEHIND_MINUTES);
    }

    /** How far a question is that another server works on. */
    Optional<QuestionLanes.Progress> progress(long person, String name) {
        return database
                .query(
                        "select place, before from slow_question where person_id = ? and name = ?",
                        (row, n) -> new QuestionLanes.Progress(row.getString(1), row.getInt(2)),
                        person,
                        name)
                .stream()
                .findFirst();
    }
}
