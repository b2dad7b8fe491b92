package deftlens.core.match;

/** One record's values, by the position of the field in its register. */
@FunctionalInterface
public interface Row {

    /**
     * The value of the field at a position, or {@code null} when it is empty: {@code String} for text, choice and person,
     * {@code BigDecimal} for number and money, {@code Boolean}, {@code Collection<String>} for tags, {@code LocalDate},
     * {@code Instant}, {@code LocalTime}. A span has none of its own; its two fields have.
     */
    Object value(int position);
}
