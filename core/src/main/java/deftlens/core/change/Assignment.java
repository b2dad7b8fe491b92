package deftlens.core.change;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.time.Unit;
import java.math.BigDecimal;
import java.util.Objects;
import java.util.Optional;

/** What becomes of one field in each of the records that are changed. What it is made from is as it was before the change. */
public sealed interface Assignment {

    /** The most that a date is moved by, in whatever unit: no date of the years that count leaves those that PostgreSQL holds. */
    int MOST_MOVED = 9_999;

    /** The field that is written; it has a column. */
    Field field();

    /** What can be done with the values of a field. */
    enum Act {
        /** Every record has the same value. */
        SET,
        /** Something is added to a number, or taken off it. */
        ADD,
        /** A date is so much later, or earlier. */
        MOVE,
        /** A tag is put on. */
        TAG,
        /** A tag is taken off. */
        UNTAG,
        /** The value is that of another field. */
        TAKE;

        /** Whether it can be done with the values of a type of field. */
        public boolean fits(FieldType type) {
            return switch (this) {
                case SET, TAKE -> type != FieldType.SPAN;
                case ADD -> type == FieldType.NUMBER || type == FieldType.MONEY || type == FieldType.DURATION;
                case MOVE -> type == FieldType.DATE || type == FieldType.MOMENT;
                case TAG, UNTAG -> type == FieldType.TAGS;
            };
        }
    }

    /** What it does. */
    default Act act() {
        return switch (this) {
            case Set _ -> Act.SET;
            case Add _ -> Act.ADD;
            case Move _ -> Act.MOVE;
            case Tag(Field _, String _, boolean on) -> on ? Act.TAG : Act.UNTAG;
            case Take _ -> Act.TAKE;
        };
    }

    /**
     * The same value in every record.
     *
     * @param value as the field's column holds it; empty for none
     */
    record Set(Field field, Optional<Object> value) implements Assignment {
        public Set {
            require(Act.SET, field);
            if (value.isEmpty() && field.required()) {
                throw new IllegalArgumentException(field.label() + " is needed in every record");
            }
        }
    }

    /**
     * So much more than before; what is empty stays empty.
     *
     * @param amount in the field's own unit, of durations in seconds; below zero for less
     */
    record Add(Field field, BigDecimal amount) implements Assignment {
        public Add {
            require(Act.ADD, field);
            Objects.requireNonNull(amount);
        }
    }

    /**
     * So much later than before; what is empty stays empty. Days and longer go by the calendar of the zone, hours and minutes as they
     * pass; a month later than 31 January is the last day of February.
     *
     * @param count below zero for earlier
     * @param unit a minute or an hour, of moments only; a day, week, month, quarter or year
     */
    record Move(Field field, int count, Unit unit) implements Assignment {
        public Move {
            require(Act.MOVE, field);
            if (Math.abs((long) count) > MOST_MOVED) {
                throw new IllegalArgumentException("a date is moved by at most " + MOST_MOVED);
            }
            switch (unit) {
                case MINUTE, HOUR -> {
                    if (field.type() == FieldType.DATE) {
                        throw new IllegalArgumentException(field.label() + " has no time of day");
                    }
                }
                case DAY, WEEK, MONTH, QUARTER, YEAR -> {}
                case WORKING_DAY, HALF, FISCAL_QUARTER, FISCAL_YEAR ->
                    throw new IllegalArgumentException("a date is not moved by " + unit.singular());
            }
        }
    }

    /**
     * A tag put on, behind the others, where it is not there; or taken off.
     *
     * @param on whether it is put on
     */
    record Tag(Field field, String tag, boolean on) implements Assignment {
        public Tag {
            require(Act.TAG, field);
            Objects.requireNonNull(tag);
        }
    }

    /**
     * The value of another field of the record.
     *
     * @param other a field of the same type that has a column
     */
    record Take(Field field, Field other) implements Assignment {
        public Take {
            require(Act.TAKE, field);
            if (field.type() != other.type()) {
                throw new IllegalArgumentException(
                        other.label() + " is a " + other.type().label() + ", " + field.label() + " a "
                                + field.type().label());
            }
        }
    }

    private static void require(Act act, Field field) {
        if (!act.fits(field.type())) {
            throw new IllegalArgumentException(act + " does not fit " + field.label() + ", a "
                    + field.type().label() + " field");
        }
    }
}
