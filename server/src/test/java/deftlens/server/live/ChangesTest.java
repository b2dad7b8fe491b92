package deftlens.server.live;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

@ExtendWith(TestServer.class)
class ChangesTest {

    private static final String ENDED = "(the line ended)";
    private static final String TOUCH = "update records.jobs set cost = cost where number = 'J-000'";

    private static BlockingQueue<String> listen(Stream<String> lines) throws InterruptedException {
        BlockingQueue<String> told = new LinkedBlockingQueue<>();
        // A bare colon only keeps the line open; it comes every quarter of a minute, whatever else is told.
        Thread.ofVirtual().start(() -> {
            try {
                lines.filter(l -> !l.isBlank() && !l.equals(":")).forEach(told::add);
            } finally {
                told.add(ENDED);
            }
        });
        assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo(":open");
        return told;
    }

    @Test
    void aChangeIsTold() throws SQLException, InterruptedException {
        try (Stream<String> lines = Caller.signedIn("dora").lines("/api/changes?registers=jobs")) {
            BlockingQueue<String> told = listen(lines);
            TestServer.sql(TOUCH);
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("event:changed");
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("data:{\"registers\":[\"jobs\"]}");
        }
    }

    /** A page whose answers came before its line was open misses nothing: it says how old they are. */
    @Test
    void aChangeFromBeforeTheLineIsToldAtOnce() throws SQLException, InterruptedException {
        try (Stream<String> first = Caller.signedIn("dora").lines("/api/changes?registers=jobs")) {
            BlockingQueue<String> told = listen(first);
            TestServer.sql(TOUCH);
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("event:changed");
        }
        // Of no time at all nothing is told, so that a page that is new enough reads nothing twice.
        Changes changes = TestServer.bean(Changes.class);
        assertThat(changes.within(Duration.ofNanos(1))).contains(Set.of());
        assertThat(changes.within(Duration.ofDays(400))).isEmpty();
        for (String age : List.of("20000", "-1", "900000000")) {
            try (Stream<String> later = Caller.signedIn("dora").lines("/api/changes?registers=jobs&age=" + age)) {
                BlockingQueue<String> told = listen(later);
                assertThat(told.poll(5, TimeUnit.SECONDS)).as(age).isEqualTo("event:changed");
                assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("data:{\"registers\":[\"jobs\"]}");
            }
        }
    }

    /** Whoever has many registers names none of them: all that they may see are watched. */
    @Test
    void aChangeIsToldToWhoeverNamesNoRegister() throws SQLException, InterruptedException {
        try (Stream<String> lines = Caller.signedIn("dora").lines("/api/changes")) {
            BlockingQueue<String> told = listen(lines);
            TestServer.sql(TOUCH);
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("event:changed");
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("data:{\"registers\":[\"jobs\"]}");
        }
        String many = String.join(",", java.util.Collections.nCopies(60, "jobs"));
        Caller.Answer refused = Caller.signedIn("dora").get("/api/changes?registers=" + many);
        assertThat(refused.status()).isEqualTo(400);
        assertThat(refused.text()).contains("name none to watch all that you may see");
    }

    @Test
    void aChangeOfAnotherRegisterIsNotTold() throws SQLException, InterruptedException {
        try (Stream<String> lines = Caller.signedIn("dora").lines("/api/changes?registers=stays")) {
            BlockingQueue<String> told = listen(lines);
            TestServer.sql(TOUCH);
            TestServer.sql("update records.stays set length = length where number = 'S-0'");
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("event:changed");
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("data:{\"registers\":[\"stays\"]}");
        }
    }

    @Test
    void thousandsOfChangesAreToldOnlyAFewTimes() throws SQLException, InterruptedException {
        try (Stream<String> lines = Caller.signedIn("dora").lines("/api/changes?registers=jobs,stays");
                Connection connection = TestServer.connect();
                Statement statement = connection.createStatement()) {
            BlockingQueue<String> told = listen(lines);
            for (int i = 0; i < 3_000; i++) {
                statement.executeUpdate(TOUCH);
            }
            statement.executeUpdate("update records.stays set length = length where number = 'S-0'");
            int events = 0;
            String line = "";
            while (!line.contains("stays")) {
                line = told.poll(5, TimeUnit.SECONDS);
                assertThat(line).isNotNull();
                events += line.startsWith("event:") ? 1 : 0;
            }
            // One for each change would be thousands; how many it is depends on how long the changes took.
            assertThat(events).isBetween(1, 300);
        }
    }

    @Test
    void aLineEndsWithItsSessionOrToken() throws SQLException, InterruptedException {
        Caller dora = Caller.signedIn("dora");
        Caller program = Caller.withToken(dora.post("/api/account/tokens", Map.of("label", "listens"))
                .json()
                .get("token")
                .stringValue());
        try (Stream<String> lines = dora.lines("/api/changes?registers=jobs");
                Stream<String> others = program.lines("/api/changes?registers=jobs")) {
            BlockingQueue<String> told = listen(lines);
            BlockingQueue<String> toldToo = listen(others);
            TestServer.sql(TOUCH);
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("event:changed");
            assertThat(toldToo.poll(5, TimeUnit.SECONDS)).isEqualTo("event:changed");
            assertThat(told.poll(5, TimeUnit.SECONDS)).startsWith("data:");
            assertThat(toldToo.poll(5, TimeUnit.SECONDS)).startsWith("data:");
            TestServer.sql("update personal_token set revoked_at = now()");
            assertThat(dora.delete("/api/session").status()).isEqualTo(204);
            TestServer.sql(TOUCH);
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo(ENDED);
            assertThat(toldToo.poll(5, TimeUnit.SECONDS)).isEqualTo(ENDED);
        }
    }

    /** Whoever comes while it is asked which lines may stay was not asked about. */
    @Test
    void aLineThatIsOpenedWhileOthersAreLookedAtStays() throws SQLException, InterruptedException {
        Caller dora = Caller.signedIn("dora");
        Caller program = Caller.withToken(dora.post("/api/account/tokens", Map.of("label", "comes late"))
                .json()
                .get("token")
                .stringValue());
        try (Stream<String> lines = dora.lines("/api/changes?registers=jobs");
                Connection blocking = TestServer.connect();
                Statement statement = blocking.createStatement()) {
            listen(lines);
            blocking.setAutoCommit(false);
            statement.execute("lock table spring_session in access exclusive mode");
            Thread looking = Thread.ofVirtual().start(TestServer.bean(ChangesController.class)::beat);
            while ("0"
                    .equals(TestServer.query("select count(*) from pg_stat_activity where datname = current_database()"
                            + " and wait_event_type = 'Lock' and query like '%spring_session%'"))) {
                Thread.sleep(20);
            }
            try (Stream<String> late = program.lines("/api/changes?registers=jobs")) {
                BlockingQueue<String> told = listen(late);
                blocking.rollback();
                looking.join();
                TestServer.sql(TOUCH);
                assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("event:changed");
            }
        }
    }

    @Test
    void whoSeesOnlySomeRecordsIsToldByTheClockAndNotByChanges() throws SQLException, InterruptedException {
        TestServer.sql("delete from register_access");
        TestServer.sql(
                "insert into register_access (register_id, team_id, statement)"
                        + " select r.id, t.id, 'site is South' from register r, team t where r.key = 'jobs' and t.name = 'Day shift'");
        try (Stream<String> lines = Caller.signedIn("dora").lines("/api/changes?registers=jobs,stays")) {
            BlockingQueue<String> told = listen(lines);
            TestServer.sql(TOUCH);
            TestServer.sql("update records.stays set length = length where number = 'S-0'");
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("event:changed");
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("data:{\"registers\":[\"stays\"]}");
            TestServer.bean(ChangesController.class).beat();
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("event:changed");
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("data:{\"registers\":[\"jobs\"]}");
            // Who may not see the register any more hears nothing of it.
            TestServer.sql("update register_access set may_read = false");
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("event:defined");
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("data:{\"registers\":{\"jobs\":\"\"}}");
            TestServer.bean(ChangesController.class).beat();
            TestServer.sql(TOUCH);
            TestServer.sql("update records.stays set length = length where number = 'S-0'");
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("event:changed");
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("data:{\"registers\":[\"stays\"]}");
        } finally {
            TestServer.sql("delete from register_access");
        }
    }

    @Test
    void pagesThatWereClosedWithoutAWordMakeRoom() throws InterruptedException {
        Caller nina = Caller.signedIn("nina");
        List<Stream<String>> lines = new ArrayList<>();
        try {
            for (int i = 0; i < 20; i++) {
                Stream<String> line = nina.lines("/api/changes?registers=jobs");
                listen(line);
                lines.add(line);
            }
            Caller.Answer refused = nina.get("/api/changes?registers=jobs");
            assertThat(refused.json().get("code").stringValue()).isEqualTo("too-many-pages");
            lines.remove(0).close();
            lines.remove(0).close();
            Stream<String> another = nina.lines("/api/changes?registers=jobs");
            lines.add(another);
            listen(another);
        } finally {
            lines.forEach(Stream::close);
        }
    }

    @Test
    void whatAnswersRestOnIsSaidWithThemAndTold() throws SQLException, InterruptedException {
        Caller dora = Caller.signedIn("dora");
        Caller ada = Caller.signedIn("ada");
        try (Stream<String> lines = dora.lines("/api/changes?registers=jobs")) {
            BlockingQueue<String> told = listen(lines);
            String first = stamp(dora);
            // A change that no answer of hers could show is not told.
            TestServer.sql("update person set full_name = full_name || ' B.' where name = 'nina'");
            assertThat(stamp(dora)).isEqualTo(first);
            TestServer.sql("update organisation set version = version + 1, week_starts = 7");
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("event:defined");
            String second = stamp(dora);
            assertThat(second).isNotEqualTo(first);
            assertThat(told.poll(5, TimeUnit.SECONDS)).contains("\"jobs\":\"").contains(second);
            // Only hers are others when it is something about her.
            String hers = stamp(ada);
            TestServer.sql("update viewer_value set value = 'South' from person p"
                    + " where p.id = person_id and p.name = 'dora'");
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("event:defined");
            assertThat(told.poll(5, TimeUnit.SECONDS)).contains(stamp(dora));
            assertThat(stamp(dora)).isNotEqualTo(second);
            assertThat(stamp(ada)).isEqualTo(hers);
            TestServer.sql("update register set version = version + 1 where key = 'jobs'");
            assertThat(stamp(ada)).isNotEqualTo(hers);
        } finally {
            TestServer.sql("update organisation set week_starts = 1");
            TestServer.sql("update viewer_value set value = 'North' from person p"
                    + " where p.id = person_id and p.name = 'dora'");
            TestServer.sql("update person set full_name = 'Nina Night' where name = 'nina'");
        }
    }

    /** What an answer rests on, without how often anything was changed. */
    private static String stamp(Caller caller) {
        String header = caller.post("/api/registers/jobs/count", Map.of()).header("X-Definitions");
        assertThat(header).matches("\\d+-[0-9a-f]{16}");
        return header.substring(header.indexOf('-') + 1);
    }

    @Test
    void whoIsNotSignedInHearsNothing() {
        assertThat(Caller.stranger().get("/api/changes?registers=jobs").status())
                .isEqualTo(401);
        assertThat(Caller.signedIn("dora").get("/api/changes?registers=nothing").status())
                .isEqualTo(404);
    }
}
