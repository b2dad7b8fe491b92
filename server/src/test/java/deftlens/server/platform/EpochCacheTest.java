package deftlens.server.platform;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.springframework.transaction.support.TransactionTemplate;

/** What is remembered is never older than the request that it answers. */
@ExtendWith(TestServer.class)
class EpochCacheTest {

    private final EpochCache remembered = TestServer.bean(EpochCache.class);
    private final AtomicInteger reads = new AtomicInteger();

    @AfterEach
    void end() throws SQLException {
        remembered.end();
        TestServer.sql(
                "delete from register_access; update person set active = true, role = 'MEMBER' where name = 'dan'");
    }

    private int read(Object key) {
        return remembered.get(key, reads::incrementAndGet);
    }

    private static long epoch() throws SQLException {
        return Long.parseLong(TestServer.query("select epoch from change_count"));
    }

    private static void somethingChanges() throws SQLException {
        TestServer.sql("update team set name = name where id = 1");
    }

    @Test
    void aValueIsReadOnceUntilSomethingChanges() throws SQLException {
        remembered.begin();
        assertThat(read("a value")).isEqualTo(1);
        assertThat(read("a value")).isEqualTo(1);
        remembered.begin();
        assertThat(read("a value")).isEqualTo(1);
        assertThat(read("another value")).isEqualTo(2);
        somethingChanges();
        remembered.begin();
        assertThat(read("a value")).isEqualTo(3);
    }

    @Test
    void thatSomethingIsNotThereIsRememberedOnlyAsAValue() {
        remembered.begin();
        for (int i = 0; i < 2; i++) {
            remembered.get("closed to somebody", () -> {
                reads.incrementAndGet();
                return Optional.empty();
            });
        }
        assertThat(reads).hasValue(1);
        for (int i = 0; i < 2; i++) {
            assertThat(remembered.find("a token of nobody", () -> {
                        reads.incrementAndGet();
                        return Optional.empty();
                    }))
                    .isEmpty();
        }
        assertThat(reads).hasValue(3);
    }

    @Test
    void nothingIsTakenFromMemoryWithoutARequestThatReads() {
        assertThat(read("outside")).isEqualTo(1);
        assertThat(read("outside")).isEqualTo(2);
        remembered.begin();
        remembered.end();
        assertThat(read("outside")).isEqualTo(3);
    }

    @Test
    void nothingIsTakenFromMemoryInATransactionThatChangesSomething() {
        remembered.begin();
        assertThat(read("in a change")).isEqualTo(1);
        TransactionTemplate change = TestServer.bean(TransactionTemplate.class);
        change.executeWithoutResult(status -> assertThat(read("in a change")).isEqualTo(2));
        assertThat(read("in a change")).isEqualTo(1);
    }

    @Test
    void whatIsReadWhileSomethingChangesIsNotKept() {
        remembered.begin();
        int first = remembered.get("changing", () -> {
            try {
                somethingChanges();
            } catch (SQLException e) {
                throw new IllegalStateException(e);
            }
            return reads.incrementAndGet();
        });
        assertThat(first).isEqualTo(1);
        remembered.begin();
        assertThat(read("changing")).isEqualTo(2);
    }

    @Test
    void aRequestThatBeganBeforeAChangeNeitherTakesNorGivesAnythingAfterIt() throws SQLException {
        remembered.begin();
        assertThat(read("old")).isEqualTo(1);
        somethingChanges();
        AtomicInteger readLater = new AtomicInteger();
        join(Thread.ofVirtual().start(() -> {
            remembered.begin();
            readLater.set(read("old"));
        }));
        assertThat(readLater).hasValue(2);
        // The older request reads for itself, and what it reads is not given to others.
        assertThat(read("old")).isEqualTo(3);
        remembered.begin();
        assertThat(read("old")).isEqualTo(2);
    }

    private static void join(Thread thread) {
        try {
            thread.join();
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "organisation",
                "working_hours",
                "working_exception",
                "team",
                "person",
                "team_member",
                "viewer_attribute",
                "viewer_value",
                "register",
                "register_field",
                "register_member",
                "register_access",
                "personal_token"
            })
    void everyChangeOfWhatIsRememberedIsCounted(String table) throws SQLException {
        assertThat(TestServer.query("select count(*) from pg_trigger where tgname = 'raise_epoch' and tgrelid = '"
                        + table + "'::regclass and tgdeferrable and tginitdeferred"))
                .isEqualTo("1");
    }

    @Test
    void aTransactionIsCountedOnceHoweverMuchItChanges() throws SQLException {
        long before = epoch();
        TestServer.sql("begin; update person set full_name = full_name; update team set name = name; commit");
        assertThat(epoch()).isEqualTo(before + 1);
        TestServer.sql("begin; update person set full_name = full_name; rollback");
        assertThat(epoch()).isEqualTo(before + 1);
    }

    @Test
    void aLongChangeKeepsNobodyFromChangingSomethingElse() throws SQLException {
        long before = epoch();
        try (Connection slow = TestServer.connect();
                Connection quick = TestServer.connect();
                Statement slowly = slow.createStatement();
                Statement quickly = quick.createStatement()) {
            slow.setAutoCommit(false);
            slowly.execute("update register set label = label where key = 'jobs'");
            quickly.execute("set statement_timeout = '5s'");
            quickly.execute("update person set full_name = full_name where name = 'dan'");
            assertThat(epoch()).isEqualTo(before + 1);
            slow.commit();
        }
        assertThat(epoch()).isEqualTo(before + 2);
    }

    @Test
    void aLimitHoldsFromTheNextRequestOn() throws SQLException {
        Caller dan = Caller.signedIn("dan");
        for (int i = 0; i < 3; i++) {
            assertThat(dan.get("/api/registers/jobs").status()).isEqualTo(200);
            TestServer.sql(
                    "insert into register_access (register_id, team_id, may_read, statement, hidden) select r.id, null, false, '', '[]' from register r where key = 'jobs'");
            assertThat(dan.get("/api/registers/jobs").status()).isEqualTo(404);
            assertThat(dan.post("/api/registers/jobs/rows", Map.of("limit", 1)).status())
                    .isEqualTo(404);
            TestServer.sql("delete from register_access");
        }
        TestServer.sql("update person set active = false where name = 'dan'");
        assertThat(dan.get("/api/registers").status()).isEqualTo(401);
    }

    @Test
    void aRoleHoldsFromTheNextRequestOn() throws SQLException {
        Caller dan = Caller.signedIn("dan");
        assertThat(dan.put("/api/pins", Map.of("views", List.of())).status()).isEqualTo(200);
        assertThat(dan.get("/api/trail?kind=people").status()).isEqualTo(403);
        TestServer.sql("update person set role = 'AUDITOR' where name = 'dan'");
        assertThat(dan.get("/api/trail?kind=people").status()).isEqualTo(200);
    }
}
