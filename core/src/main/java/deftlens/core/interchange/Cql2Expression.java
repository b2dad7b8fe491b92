package deftlens.core.interchange;

import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.util.List;
import java.util.Optional;

/** A CQL2 filter without regard to its encoding. {@code where} is the place it was read from, empty for one that is written. */
sealed interface Cql2Expression {

    /** The place in the text ({@code line:column}) or in the JSON (a JSON Pointer). */
    String where();

    /** An operator or function by its name in the JSON encoding, in lower case but for {@code isNull}. */
    record Op(String name, List<Cql2Expression> arguments, String where) implements Cql2Expression {}

    /** A property of the record. */
    record Property(String name, String where) implements Cql2Expression {}

    /** A character string. */
    record Text(String value, String where) implements Cql2Expression {}

    /** A number. */
    record Number(BigDecimal value, String where) implements Cql2Expression {}

    /** True or false. */
    record Truth(boolean value, String where) implements Cql2Expression {}

    /** A calendar date. */
    record Date(LocalDate value, String where) implements Cql2Expression {}

    /** An instant. */
    record Timestamp(Instant value, String where) implements Cql2Expression {}

    /** An interval between two dates, timestamps or properties; an absent end is open. */
    record Interval(Optional<Cql2Expression> from, Optional<Cql2Expression> to, String where)
            implements Cql2Expression {}

    /** An array of literals. */
    record Array(List<Cql2Expression> items, String where) implements Cql2Expression {}

    static Op op(String name, List<Cql2Expression> arguments) {
        return new Op(name, List.copyOf(arguments), "");
    }

    static Op op(String name, Cql2Expression... arguments) {
        return new Op(name, List.of(arguments), "");
    }
}
