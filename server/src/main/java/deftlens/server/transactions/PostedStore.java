package deftlens.server.transactions;

import java.util.List;
import java.util.Optional;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Component;

/** Which transactions were posted here, and which of them is the opposite of which. */
@Component
class PostedStore {

    private final JdbcClient database;

    PostedStore(JdbcClient database) {
        this.database = database;
    }

    void add(long register, String number, long set, Optional<String> reverses) {
        database.sql("insert into posted_transaction (register_id, number, change_set_id, reverses)"
                        + " values (?, ?, ?, cast(? as text))")
                .params(register, number, set, reverses.orElse(null))
                .update();
    }

    /** The number of the transaction that one is the opposite of. */
    Optional<String> reverses(long register, String number) {
        return database.sql("select reverses from posted_transaction"
                        + " where register_id = ? and number = ? and reverses is not null order by id desc limit 1")
                .params(register, number)
                .query(String.class)
                .optional();
    }

    /** The numbers of those that were posted as the opposite of one, the latest first; some may have been taken away since. */
    List<String> reversals(long register, String number) {
        return database.sql(
                        "select number from posted_transaction where register_id = ? and reverses = ? order by id desc")
                .params(register, number)
                .query(String.class)
                .list();
    }
}
