package deftlens.server.values;

import deftlens.core.time.DurationText;
import java.math.BigDecimal;
import java.util.Locale;

/** What a number alone means where durations are written as numbers. */
public enum DurationUnit {
    SECONDS,
    MINUTES,
    HOURS,
    DAYS;

    /** The seconds of so many. */
    BigDecimal seconds(BigDecimal number) {
        return DurationText.unit(name().toLowerCase(Locale.ROOT)).orElseThrow().multiply(number);
    }
}
