package deftlens.core.time;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.LocalDateTime;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class ShiftTest {

    @ParameterizedTest
    @CsvSource({
        "1, 0, 2026-01-31T10:00, 2026-02-28T10:00",
        "12, 0, 2024-02-29T23:59, 2025-02-28T23:59",
        "3, 0, 2025-11-30T00:00, 2026-02-28T00:00",
        "0, 30, 2026-02-01T08:00, 2026-03-03T08:00"
    })
    void datesAreMoved(int months, long days, LocalDateTime from, LocalDateTime to) {
        assertThat(new Shift(months, days).move(from)).isEqualTo(to);
    }

    @ParameterizedTest
    @CsvSource({
        "1, 0, 2026-03-31T00:00, 2026-03-01T00:00",
        "1, 0, 2026-02-28T00:00, 2026-01-28T00:00",
        "1, 0, 2026-03-01T00:00, 2026-02-01T00:00",
        "12, 0, 2028-02-29T00:00, 2027-03-01T00:00",
        "12, 0, 2025-02-28T10:00, 2024-02-28T10:00",
        "0, 7, 2026-11-23T00:00, 2026-11-16T00:00"
    })
    void aStretchComesFromAStretch(int months, long days, LocalDateTime to, LocalDateTime from) {
        assertThat(new Shift(months, days).origin(to)).isEqualTo(from);
    }

    /** What decides which records stand in a period: a time is moved to the origin's target or later exactly from the origin on. */
    @Test
    void theOriginDividesTheTimesThatComeBeforeFromThoseThatDoNot() {
        Random random = new Random(31);
        for (int i = 0; i < 50_000; i++) {
            Shift shift = random.nextBoolean()
                    ? Shift.ofMonths(1 + random.nextInt(30))
                    : Shift.ofDays(1 + random.nextInt(800));
            LocalDateTime period = LocalDateTime.of(2000, 1, 1, 0, 0).plusDays(random.nextInt(12_000));
            LocalDateTime at = period.minusDays(random.nextInt(1_000)).plusMinutes(random.nextInt(4_000));
            assertThat(shift.move(at).isBefore(period))
                    .as("%s %s %s", shift, at, period)
                    .isEqualTo(at.isBefore(shift.origin(period)));
        }
    }

    @Test
    void itIsMonthsOrDays() {
        assertThatThrownBy(() -> new Shift(1, 1)).isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> Shift.ofDays(0)).isInstanceOf(IllegalArgumentException.class);
    }
}
