package deftlens.server.values;

import static org.assertj.core.api.Assertions.assertThat;

import java.math.BigDecimal;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Numbers and dates as files write them. */
class TextsTest {

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            ignoreLeadingAndTrailingWhitespace = false,
            value = {
                "POINT|1,204.50|1204.50|false",
                "POINT|1,204|1204|true",
                "COMMA|1,204|1.204|true",
                "COMMA|1.204,5|1204.5|false",
                "POINT|(12.5)|-12.5|false",
                "POINT|12.5-|-12.5|false",
                "POINT|-£ 1 204|-1204|false",
                "POINT|1'204'000|1204000|false",
                "POINT|.5|0.5|false",
                "POINT|5.|5.0|false",
                "COMMA|0,125|0.125|true",
            })
    void numbersAreRead(NumberText.Decimal decimal, String text, BigDecimal value, boolean either) {
        NumberText.Read read = NumberText.number(text, decimal).orElseThrow();
        assertThat(read.value()).isEqualByComparingTo(value);
        assertThat(read.either()).isEqualTo(either);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "12,34.5",
                "1,2345",
                "1.2.3",
                "--5",
                "5-5",
                "1e5",
                "abc",
                "(5",
                "12,,345",
                "-",
                "£",
                "1,234,56",
                "1 23"
            })
    void whatIsNoNumberIsNot(String text) {
        assertThat(NumberText.number(text, NumberText.Decimal.POINT)).as(text).isEmpty();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "DAY_FIRST|03/04/2026|2026-04-03T00:00|true",
                "MONTH_FIRST|03/04/2026|2026-03-04T00:00|true",
                "DAY_FIRST|4.4.26|2026-04-04T00:00|false",
                "DAY_FIRST|2026-02-28|2026-02-28T00:00|false",
                "MONTH_FIRST|2026/02/28 7:05|2026-02-28T07:05|false",
                "DAY_FIRST|23 Nov 2026, 14:30|none|false",
                "DAY_FIRST|23 Nov 2026 14:30|2026-11-23T14:30|false",
                "DAY_FIRST|23-NOV-26|2026-11-23T00:00|false",
                "DAY_FIRST|Nov 23, 2026|2026-11-23T00:00|false",
                "MONTH_FIRST|11/23/2026 12:05:09 am|2026-11-23T00:05:09|false",
                "MONTH_FIRST|11/23/2026 12:05 PM|2026-11-23T12:05|false",
                "DAY_FIRST|2026-11-23T14:30:00.123456789Z|2026-11-23T14:30:00.123456|false",
                "DAY_FIRST|31/04/2026|none|false",
                "DAY_FIRST|13/13/2026|none|false",
                "DAY_FIRST|10.20.30.40|none|false",
                "DAY_FIRST|1234567|none|false",
                "DAY_FIRST|01/02/69|2069-02-01T00:00|true",
                "DAY_FIRST|01/02/70|1970-02-01T00:00|true",
            })
    void datesAreRead(DateText.Order order, String text, String local, boolean either) {
        var read = DateText.date(text, order);
        assertThat(read.map(r -> r.local().toString()).orElse("none")).isEqualTo(local);
        assertThat(read.map(DateText.Read::either).orElse(false)).isEqualTo(either);
    }
}
