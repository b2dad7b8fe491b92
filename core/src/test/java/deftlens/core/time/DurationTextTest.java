package deftlens.core.time;

import static org.assertj.core.api.Assertions.assertThat;

import java.math.BigDecimal;
import java.time.Duration;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class DurationTextTest {

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "2 h 30 min|9000|2 h 30 min|PT2H30M",
                "2h30m|9000|2 h 30 min|PT2H30M",
                "2 hours, 30 minutes|9000|2 h 30 min|PT2H30M",
                "2 hrs and 30 mins.|9000|2 h 30 min|PT2H30M",
                "2:30|9000|2 h 30 min|PT2H30M",
                "0:00:01.5|1.5|1.5 s|PT1.5S",
                "36:00|129600|1 day 12 h|P1DT12H",
                "pt2h30m|9000|2 h 30 min|PT2H30M",
                "P2W|1209600|14 days|P14D",
                "P1DT0.5H|88200|1 day 30 min|P1DT30M",
                "3 days|259200|3 days|P3D",
                "1 d|86400|1 day|P1D",
                "1.5 h|5400|1 h 30 min|PT1H30M",
                "90 min|5400|1 h 30 min|PT1H30M",
                "-2 h 30 min|-9000|-2 h 30 min|-PT2H30M",
                "-PT90S|-90|-1 min 30 s|-PT1M30S",
                "0 min|0|0 s|PT0S",
                "PT0.001S|0.001|0.001 s|PT0.001S"
            })
    void isReadAndWritten(String written, BigDecimal seconds, String words, String iso) {
        assertThat(DurationText.seconds(written)).contains(seconds);
        assertThat(DurationText.words(seconds)).isEqualTo(words);
        assertThat(DurationText.iso(seconds)).isEqualTo(iso);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "",
                " ",
                "2",
                "h",
                "2 x",
                "30 min 2 h",
                "2 h 3 h",
                "2 months",
                "P1M",
                "P1Y",
                "PT",
                "P",
                "P1DT",
                "1:60",
                "2 h 30",
                "two hours",
                "2 h -30 min",
                "- ",
                "1,5 h",
                "1e3 s",
                "٢ h"
            })
    void isRefused(String written) {
        assertThat(DurationText.seconds(written)).isEmpty();
    }

    @Test
    void whatIsWrittenIsReadAgainAndAgreesWithJava() {
        Random random = new Random(11);
        for (int i = 0; i < 20_000; i++) {
            BigDecimal seconds =
                    BigDecimal.valueOf(random.nextLong(1L << random.nextInt(1, 50)) - 1_000, random.nextInt(7));
            assertThat(DurationText.seconds(DurationText.words(seconds)).orElseThrow())
                    .isEqualByComparingTo(seconds);
            String iso = DurationText.iso(seconds);
            assertThat(DurationText.seconds(iso).orElseThrow()).isEqualByComparingTo(seconds);
            Duration java =
                    seconds.signum() < 0 ? Duration.parse(iso.substring(1)).negated() : Duration.parse(iso);
            assertThat(new BigDecimal(java.getSeconds()).add(BigDecimal.valueOf(java.getNano(), 9)))
                    .isEqualByComparingTo(seconds);
        }
    }
}
