package deftlens.core.check;

import deftlens.core.condition.Condition;
import java.util.Optional;
import java.util.OptionalLong;

/**
 * Something the checker noticed.
 *
 * @param path the part of the tree it is about, a JSON Pointer (RFC 6901); empty for the whole
 * @param message a whole sentence for the person who asks
 * @param count the number of records it is about, where it is about records
 * @param mend one step that mends it, where there is one
 */
public record Finding(Code code, Level level, String path, String message, OptionalLong count, Optional<Mend> mend) {

    /** How much it matters. */
    public enum Level {
        /** The answer cannot be what was meant. */
        ERROR,
        /** The answer is probably not what was meant. */
        WARNING,
        /** Worth knowing. */
        HINT
    }

    /** What was noticed. */
    public enum Code {
        /** No record can ever be in it. */
        NEVER("never"),
        /** Every record always is. */
        ALWAYS("always"),
        /** The same is asked elsewhere in so many words. */
        REPEATS("repeats"),
        /** What it asks follows from other parts, or adds nothing to them. */
        CONTAINED("contained"),
        /** A fixed window that lies wholly in the past. */
        PASSED("passed"),
        /** A fixed window that ends a day before its month, quarter or year does. */
        DAY_SHORT("day-short"),
        /** A fixed window in a view whose name or purpose speaks of a rolling one. */
        FIXED_NOT_ROLLING("fixed-not-rolling"),
        /** A rolling window in a view whose name or purpose speaks of a fixed one. */
        ROLLING_NOT_FIXED("rolling-not-fixed"),
        /** Records that are left out because the field is empty. */
        EMPTY_LEFT_OUT("empty-left-out"),
        /** Records that are let in because the field is empty. */
        EMPTY_LET_IN("empty-let-in"),
        /** Many records stand exactly at a boundary that does not count. */
        AT_BOUNDARY("at-boundary"),
        /** A view that shows everything. */
        EVERYTHING("everything"),
        /** A listed value that no record has. */
        VALUE_NOBODY_HAS("value-nobody-has"),
        /** A text with a space at its end or a doubled one, which records have without. */
        EXTRA_SPACE("extra-space"),
        /** A field that the register does not have, or not as it was. */
        FIELD_GONE("field-gone"),
        /** A choice, person or band that does not exist. */
        CHOICE_GONE("choice-gone"),
        /** A field that the reader may not use. */
        NOT_YOURS("not-yours"),
        /** A viewer value that the reader does not have. */
        VIEWER_EMPTY("viewer-empty"),
        /** A criterion on a calculated field that makes a question slow which is quick without it. */
        SLOW_CALCULATION("slow-calculation");

        private final String code;

        Code(String code) {
            this.code = code;
        }

        /** The stable name in the API. */
        public String code() {
            return code;
        }
    }

    /**
     * One step that mends a finding.
     *
     * @param label what the step does, in words: {@code Count up to 31 Mar 2026}
     * @param condition the whole condition after it
     */
    public record Mend(String label, Condition condition) {}

    static Finding of(Code code, Level level, String path, String message) {
        return new Finding(code, level, path, message, OptionalLong.empty(), Optional.empty());
    }

    Finding mended(String label, Condition condition) {
        return new Finding(code, level, path, message, count, Optional.of(new Mend(label, condition.normal())));
    }

    Finding counting(long records) {
        return new Finding(code, level, path, message, OptionalLong.of(records), mend);
    }
}
