package deftlens.server.platform;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.testing.TestCluster;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.stream.Stream;
import org.flywaydb.core.Flyway;
import org.flywaydb.core.api.MigrationInfo;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** A database that is in use comes from any earlier form to the present one. */
class MigrationTest {

    private static Flyway flyway(String url, String target) {
        return Flyway.configure()
                .dataSource(url, TestCluster.user(), TestCluster.password())
                .target(target)
                .load();
    }

    static Stream<String> earlier() {
        MigrationInfo[] all = flyway(TestCluster.freshDatabase("deft_migration"), "latest")
                .info()
                .all();
        // In the first forms the epochs were not there yet, nor the registers as they are now.
        return Stream.of(all)
                .map(m -> m.getVersion().getVersion())
                .filter(v -> Integer.parseInt(v) >= 7 && Integer.parseInt(v) < all.length);
    }

    @ParameterizedTest
    @MethodSource("earlier")
    void comesFromAnEarlierForm(String version) throws SQLException {
        String url = TestCluster.freshDatabase("deft_migration");
        flyway(url, version).migrate();
        try (Connection connection = DriverManager.getConnection(url, TestCluster.user(), TestCluster.password());
                Statement statement = connection.createStatement()) {
            for (String table : new String[] {"team", "person", "register"}) {
                statement.execute(row(connection, table));
            }
            flyway(url, "latest").migrate();
            try (ResultSet found = statement.executeQuery("select count(*), min(records_label) from register")) {
                found.next();
                assertThat(found.getInt(1)).isEqualTo(1);
                assertThat(found.getString(2)).isNotNull();
            }
        }
    }

    /** A row with something in each column that needs a value. */
    private static String row(Connection connection, String table) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet found = statement.executeQuery("""
                        select 'insert into %1$s (' || string_agg(column_name, ', ') || ') values ('
                            || string_agg(case when column_name = 'role' then '''ADMINISTRATOR'''
                                when column_name in ('origin', 'source') then '''OWN''' else case data_type when 'boolean' then 'true' when 'jsonb' then '''{}'''
                                when 'text' then '''ticket''' when 'timestamp with time zone' then 'now()' else '1' end end, ', ')
                            || ')'
                        from information_schema.columns
                        where table_name = '%1$s' and is_nullable = 'NO' and column_default is null
                            and is_identity = 'NO' and is_generated = 'NEVER'""".formatted(table))) {
            found.next();
            return found.getString(1);
        }
    }
}
