package deftlens.server.people;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.SQLException;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.api.io.TempDir;

/** The first administrator of an empty installation, whose password lies in a file until it is changed. */
@ExtendWith(TestServer.class)
class FirstAdministratorTest {

    @Test
    void thePasswordHasToBeChangedAndTheFileGoesWithIt(@TempDir Path data) throws IOException, SQLException {
        FirstAdministrator first =
                new FirstAdministrator(TestServer.bean(PeopleService.class), TestServer.events(), data.toString());
        first.make();
        try {
            Path file = data.resolve("first-administrator");
            assertThat(Files.getPosixFilePermissions(file)).hasSize(2);
            String password = Files.readString(file).strip().split("\\s+")[1];
            Caller admin = Caller.stranger();
            assertThat(admin.post("/api/session", Map.of("name", "administrator", "password", password))
                            .json()
                            .get("mustChangePassword")
                            .booleanValue())
                    .isTrue();
            assertThat(admin.get("/api/people").status()).isEqualTo(403);
            assertThat(admin.put("/api/account/password", Map.of("old", password, "fresh", "kelp lantern 49 gravel"))
                            .status())
                    .isEqualTo(204);
            assertThat(admin.get("/api/people").status()).isEqualTo(200);
            // The organisation was not touched yet; records and people of the test world are there.
            assertThat(admin.get("/api/setup").text())
                    .isEqualTo("[{\"step\":\"ORGANISATION\",\"state\":\"OPEN\"},"
                            + "{\"step\":\"RECORDS\",\"state\":\"DONE\"},{\"step\":\"PEOPLE\",\"state\":\"DONE\"}]");
            assertThat(admin.put("/api/setup/ORGANISATION", Map.of("later", true))
                            .text())
                    .contains("{\"step\":\"ORGANISATION\",\"state\":\"LATER\"}");
            Object settings = admin.get("/api/organisation").json();
            assertThat(admin.put("/api/organisation", settings).status()).isEqualTo(200);
            assertThat(admin.get("/api/setup").text()).doesNotContain("LATER").doesNotContain("OPEN");
            assertThat(Caller.signedIn("nina").get("/api/setup").status()).isEqualTo(403);
            first.changed(new PasswordChanged("somebody.else"));
            assertThat(file).exists();
            first.changed(new PasswordChanged("administrator"));
            assertThat(file).doesNotExist();
        } finally {
            TestServer.sql("truncate trail; truncate setup_step; delete from person where name = 'administrator'");
        }
    }
}
