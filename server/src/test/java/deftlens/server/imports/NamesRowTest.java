package deftlens.server.imports;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class NamesRowTest {

    @TempDir
    Path directory;

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "1| Account;Due;Amount / A-1;2026-11-30;12.50",
                "0| A-1;2026-11-30;12.50 / A-2;2026-12-01;1.00",
                "3| Harbour dues / Printed on;23 Nov 2026 / Account;Due;Amount / A-1;2026-11-30;12.50 / A-2;2026-11-30;3",
                "5| Harbour dues / / Prepared by;Harbour office / / Account;Due;Amount / A-1;2026-11-30;12.50 / A-2;2026-11-30;3",
                "2| Harbour dues;; / Account;Due;Amount / A-1;2026-11-30;12.50 / A-2;2026-11-30;3",
                // The first column of what some programs write has no name.
                "1| ;Account;Due;Amount / 0;A-1;2026-11-30;12.50 / 1;A-2;2026-11-30;3",
                // Two columns of one name are no names.
                "0| Note;Note / x;1 / y;2",
                "1| Name / Rope / Chain",
                "0| Rope;Rope;7 / Chain;Link;8",
                "2| Totals by site / Site;Open;Closed / North;;7 / South;3; / East;2;2",
                "1| Site;Open;Closed"
            })
    void isFoundByItself(long line, String rows) throws IOException {
        Path file = directory.resolve("a.csv");
        Files.writeString(file, rows.strip().replaceAll(" */ *", "\n"), StandardCharsets.UTF_8);
        assertThat(NamesRow.in(new deftlens.server.imports.CsvSource(file, StandardCharsets.UTF_8, ';'))
                        .orElse(0L))
                .isEqualTo(line);
    }
}
