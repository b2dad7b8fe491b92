package deftlens.server.question;

import deftlens.server.platform.AsText;
import java.math.BigDecimal;
import java.util.Map;
import java.util.Optional;
import tools.jackson.databind.annotation.JsonSerialize;

/**
 * One record of an answer.
 *
 * @param id its number
 * @param values the values asked for, by the keys of their fields
 * @param matches whether it is in the question, where all records are shown
 * @param running the running total up to and with it, where one is asked for
 */
public record ResultRow(
        @AsText long id,
        @JsonSerialize(using = RowValues.Json.class) Map<String, Object> values,
        Optional<Boolean> matches,
        Optional<BigDecimal> running) {

    /** A record of its values alone. */
    public ResultRow(long id, Map<String, Object> values) {
        this(id, values, Optional.empty(), Optional.empty());
    }
}
