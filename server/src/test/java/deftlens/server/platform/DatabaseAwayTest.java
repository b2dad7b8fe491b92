package deftlens.server.platform;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import deftlens.testing.TestCluster;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

@ExtendWith(TestServer.class)
class DatabaseAwayTest {

    @Test
    void everythingSaysSoPromptlyAndWorksAgainByItself() throws SQLException, InterruptedException {
        Caller dora = Caller.signedIn("dora");
        Caller stranger = Caller.stranger();
        String name = TestServer.query("select current_database()");
        String other;
        try (Connection own = TestServer.connect()) {
            other = own.getMetaData().getURL().replaceFirst("/" + name + "(?=$|\\?)", "/postgres");
        }
        try (Connection elsewhere = DriverManager.getConnection(other, TestCluster.user(), TestCluster.password());
                Statement statement = elsewhere.createStatement()) {
            statement.execute("alter database \"" + name + "\" allow_connections false");
            try {
                statement.execute(
                        "select pg_terminate_backend(pid) from pg_stat_activity where datname = '" + name + "'");
                for (Caller.Answer answer : new Caller.Answer[] {
                    dora.get("/api/registers"),
                    dora.post("/api/registers/jobs/rows", Map.of("limit", 1)),
                    stranger.post("/api/session", Map.of("name", "dora", "password", "dora-password")),
                }) {
                    assertThat(answer.status()).as(answer.text()).isEqualTo(503);
                    assertThat(answer.json().get("code").stringValue()).isEqualTo("database-away");
                    assertThat(Integer.parseInt(answer.header("Retry-After"))).isPositive();
                }
                assertThat(stranger.get("/actuator/health/readiness").status()).isEqualTo(503);
                assertThat(stranger.get("/actuator/health/liveness").status()).isEqualTo(200);
                assertThat(stranger.get("/sign-in").status()).isEqualTo(200);
            } finally {
                statement.execute("alter database \"" + name + "\" allow_connections true");
            }
        }
        long end = System.nanoTime() + TimeUnit.SECONDS.toNanos(30);
        while (stranger.get("/actuator/health/readiness").status() != 200) {
            assertThat(System.nanoTime()).isLessThan(end);
        }
        assertThat(dora.get("/api/registers").status()).isEqualTo(200);
        assertThat(dora.post("/api/registers/jobs/rows", Map.of("limit", 1)).status())
                .isEqualTo(200);
    }
}
