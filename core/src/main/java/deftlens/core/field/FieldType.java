package deftlens.core.field;

/** What a field holds, and so which tests fit it. */
public enum FieldType {
    /** Free text. An empty string counts as empty. */
    TEXT("text"),
    /** An exact decimal number. */
    NUMBER("number"),
    /** An exact decimal amount in the organisation's currency. */
    MONEY("money"),
    /** A length of time, kept in seconds. */
    DURATION("duration"),
    /** One of a declared list of values. */
    CHOICE("choice"),
    /** A person, kept by sign-in name. */
    PERSON("person"),
    /** True or false. */
    YES_NO("yes/no"),
    /** A set of short texts. No tags at all counts as empty. */
    TAGS("tags"),
    /** A local day, without time of day. */
    DATE("date"),
    /** An instant, kept to the microsecond. */
    MOMENT("moment"),
    /** A wall-clock time of no particular day, from 00:00 on and before 24:00, kept to the microsecond. */
    TIME("time of day"),
    /** A start and an end field declared as a pair; the end may be empty, for what still runs. */
    SPAN("span");

    private final String label;

    FieldType(String label) {
        this.label = label;
    }

    /** The type's name in the API and in files. */
    public String label() {
        return label;
    }

    /** The type as it is said to people: {@code date and time} for {@link #MOMENT}, for the others their name. */
    public String words() {
        return this == MOMENT ? "date and time" : label;
    }

    /** Whether the field's values are numbers, of whatever unit: they are compared, lie in ranges, and add up. */
    public boolean isNumeric() {
        return this == NUMBER || this == MONEY || this == DURATION;
    }

    /** Whether numbers of the one mean the same as numbers of the other: those of a duration only among themselves. */
    public boolean countsAs(FieldType other) {
        return isNumeric() && other.isNumeric() && (this == DURATION) == (other == DURATION);
    }

    /** Whether the field is tested with date phrases. */
    public boolean isTemporal() {
        return this == DATE || this == MOMENT;
    }

    /** Whether the field holds values of its own, in a column that can be shown. */
    public boolean isStored() {
        return this != SPAN;
    }

    /** Whether the field's values come from a list that is known. */
    public boolean isListed() {
        return this == CHOICE || this == PERSON;
    }
}
