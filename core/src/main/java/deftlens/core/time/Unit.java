package deftlens.core.time;

import java.util.Locale;

/** A unit that windows are counted in. Fiscal units follow {@link Reading#fiscalYearStarts()}. */
public enum Unit {
    MINUTE,
    HOUR,
    DAY,
    WORKING_DAY,
    WEEK,
    MONTH,
    QUARTER,
    HALF,
    YEAR,
    FISCAL_QUARTER,
    FISCAL_YEAR;

    /** Whether the unit is shorter than a day, so that it needs a field with a time of day. */
    public boolean isClock() {
        return this == MINUTE || this == HOUR;
    }

    /** Whether {@code last N …} and {@code N … ago} are defined for the unit. */
    public boolean isCounted() {
        return switch (this) {
            case HALF, FISCAL_QUARTER, FISCAL_YEAR -> false;
            default -> true;
        };
    }

    /** Whether {@code this / last / next …} names a calendar period of the unit. */
    public boolean isCalendar() {
        return switch (this) {
            case WEEK, MONTH, QUARTER, HALF, YEAR, FISCAL_QUARTER, FISCAL_YEAR -> true;
            default -> false;
        };
    }

    /** Whether {@code last N full …} is defined for the unit. */
    public boolean isWhole() {
        return this == DAY || isCalendar();
    }

    /** The unit in words for a count of one, as the language spells it: {@code fiscal quarter}. */
    public String singular() {
        return name().toLowerCase(Locale.ROOT).replace('_', ' ');
    }

    /** The unit in words for any other count: {@code fiscal quarters}. */
    public String plural() {
        return this == HALF ? "halves" : singular() + "s";
    }

    /** The unit in words after a count: {@code 1 day}, {@code 3 days}. */
    public String counted(int count) {
        return count + " " + (count == 1 ? singular() : plural());
    }
}
