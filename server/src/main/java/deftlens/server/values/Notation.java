package deftlens.server.values;

import java.time.ZoneId;
import java.util.Optional;

/**
 * How the texts of one column of a file are to be read. What is absent is as usual: days first, decimals behind a point, and no numbers
 * without a unit for durations.
 *
 * @param order which of two short numbers of a date is the day
 * @param decimal which sign comes before decimals
 * @param unit what a number alone means as a duration
 * @param zone the zone of times that name none
 */
public record Notation(
        Optional<DateText.Order> order,
        Optional<NumberText.Decimal> decimal,
        Optional<DurationUnit> unit,
        ZoneId zone) {}
