package deftlens.server.speed;

import deftlens.core.sql.Indexes;
import java.util.Optional;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Repository;

/** Indexes that were found to help, so that any server can build them. */
@Repository
class IndexProposals {

    private final JdbcTemplate database;

    IndexProposals(JdbcTemplate database) {
        this.database = database;
    }

    /**
     * An index that would help.
     *
     * @param columns the SQL of what it is over
     * @param words the same, for people
     */
    record Proposal(String method, String columns, String words) {}

    void put(String name, long register, Indexes.Candidate candidate) {
        database.update("""
                insert into index_proposal (name, register_id, method, columns, words) values (?, ?, ?, ?, ?)
                on conflict (name) do update set proposed_at = clock_timestamp()""", name, register, candidate.method(), candidate.columns(), candidate.words());
    }

    Optional<Proposal> find(String name, long register) {
        return database
                .query(
                        "select method, columns, words from index_proposal where name = ? and register_id = ?",
                        (row, n) -> new Proposal(row.getString(1), row.getString(2), row.getString(3)),
                        name,
                        register)
                .stream()
                .findFirst();
    }
}
