package deftlens.server.registers;

import deftlens.core.calculation.Calculation;
import deftlens.core.calculation.Expression;
import deftlens.core.condition.Condition;
import deftlens.core.field.Field;
import deftlens.core.field.Register;
import deftlens.core.sql.Order;
import deftlens.core.time.Reading;
import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * A register as one person sees it, with what the interface needs to know of it.
 *
 * @param id the register's number in the catalogue
 * @param origin where its records are
 * @param register the register as the core knows it, without the fields that are hidden from the person, people's names
 *     filled in
 * @param recordLabel one record in words
 * @param recordsLabel several records in words
 * @param description what the register holds and for whom
 * @param shown the columns at rest
 * @param main the date or moment it is ordered by at rest, where it has one
 * @param running the number whose sum so far means something
 * @param title the field that names a record to people
 * @param defaultOrder the order at rest
 * @param notes what the catalogue says of each field, by key
 * @param hidden the keys and labels of the fields that are hidden from the person
 * @param limits the statements that limit the records the person sees, of which one must hold; none is no limit
 * @param limitsInWords the same limits as people read them, in the labels of the fields
 * @param members what a combined register is read from
 * @param gaps what a combined register should have of its members and does not get
 * @param table where a register that is not combined is read from, and the columns that tell its records apart
 * @param viewerValues what may follow {@code my} in a statement
 * @param added the calculated fields among its fields that are not the register's own
 * @param closedUpTo the last day of its main date whose records nobody writes any more; absent where all are open
 * @param pastSince from when on it is kept what its records were; absent where they are not kept here
 * @param transactions how its records are posted together, where they are and all the fields of that are seen
 * @param mayChangeMany whether whoever sees it so may change many of its records at once, and post transactions
 * @param version the version of the catalogue's entry, for changing it
 */
public record RegisterForReader(
        long id,
        Origin origin,
        Register register,
        String recordLabel,
        String recordsLabel,
        String description,
        List<Field> shown,
        Optional<Field> main,
        Optional<Field> running,
        Field title,
        Order defaultOrder,
        Map<String, Notes> notes,
        Map<String, String> hidden,
        List<String> limits,
        List<String> limitsInWords,
        List<Member> members,
        List<Gap> gaps,
        Table table,
        List<String> viewerValues,
        Optional<AddedFields.Added> added,
        Optional<LocalDate> closedUpTo,
        Optional<Instant> pastSince,
        Optional<TransactionRules> transactions,
        boolean mayChangeMany,
        int version) {

    /**
     * What a catalogue says of a field beyond its type.
     *
     * @param source the column of its table that it is read from
     * @param expression the SQL of an attached field over its table {@code t}, where it is more than a column
     * @param calculated how a calculated field comes to its value
     * @param otherwise how the field of a combined register is read from its members, where it stands beside the same field as it
     *     is
     */
    public record Notes(
            FieldOrigin origin,
            String source,
            RegisterDefinition.FieldDefinition.About about,
            Optional<String> expression,
            Optional<Calculated> calculated,
            Optional<CalculatedTwice.Otherwise> otherwise) {

        Notes(
                FieldOrigin origin,
                String source,
                RegisterDefinition.FieldDefinition.About about,
                Optional<String> expression,
                Optional<Calculated> calculated) {
            this(origin, source, about, expression, calculated, Optional.empty());
        }

        Notes otherwise(CalculatedTwice.Otherwise how) {
            return new Notes(origin, source, about, expression, calculated, Optional.of(how));
        }
    }

    /**
     * How a calculated field comes to its value.
     *
     * @param words in the language
     * @param expression the same, read; absent where it cannot be calculated any more, and the field is empty in all records
     * @param trouble why it cannot be, in a sentence
     * @param reading the moment it is calculated at, where that is another than the question's
     */
    public record Calculated(
            String words, Optional<Expression> expression, Optional<String> trouble, Optional<Reading> reading) {

        Calculated(String words, Optional<Expression> expression, Optional<String> trouble) {
            this(words, expression, trouble, Optional.empty());
        }
    }

    /**
     * One of the registers that a combined one is read from.
     *
     * @param key the member's key
     * @param label what its records are called in the combined register
     * @param mapping field of the combined register to field of the member
     */
    public record Member(String key, String label, Map<String, String> mapping) {

        /** The fields of the combined register that are read from some of the member's. */
        Set<String> readingFrom(Set<String> fields) {
            return mapping.entrySet().stream()
                    .filter(e -> fields.contains(e.getValue()))
                    .map(Map.Entry::getKey)
                    .collect(Collectors.toSet());
        }
    }

    /**
     * Something that a combined register should have of a member and does not get.
     *
     * @param field the key of the field that is empty in the member's records; absent when its records are missing
     * @param words in a sentence
     */
    public record Gap(Optional<String> field, String words) {}

    /**
     * Where records are read from.
     *
     * @param name schema and table, quoted
     * @param keyColumns the columns that tell the records of an attached table apart
     * @param numbered whether the only one of them is a whole number
     */
    public record Table(String name, List<String> keyColumns, boolean numbered) {}

    /** What its records are asked for by: the register's key, and the handle of what is added to its fields. */
    public String key() {
        return AddedFields.key(register.key(), added.map(AddedFields.Added::handle));
    }

    /** Whether something can be done with its records, or is known of them. */
    public boolean can(Origin.Capability capability) {
        return origin.can(capability);
    }

    /** Its calculated fields that can be calculated. */
    public List<Calculation> calculations() {
        return calculations(c -> c.expression().isPresent());
    }

    /** Those that are calculated at a moment of their own; the others, where that is absent. */
    public List<Calculation> calculations(Optional<Reading> at) {
        return calculations(c -> c.expression().isPresent() && c.reading().equals(at));
    }

    /** The moments that some of its fields are calculated at, where these are others than the question's. */
    public Set<Reading> readings() {
        return notes.values().stream()
                .flatMap(n -> n.calculated().flatMap(Calculated::reading).stream())
                .collect(Collectors.toSet());
    }

    /** The ways in which some of its fields are read from its members, beside the same fields as they are. */
    public Set<CalculatedTwice.Otherwise> otherwise() {
        return notes.values().stream().flatMap(n -> n.otherwise().stream()).collect(Collectors.toSet());
    }

    private List<Calculation> calculations(Predicate<Calculated> which) {
        return calculated(which)
                .map(f -> new Calculation(
                        f,
                        notes.get(f.key())
                                .calculated()
                                .orElseThrow()
                                .expression()
                                .orElseThrow()))
                .toList();
    }

    /** What its yes/no fields stand for that are calculated from a statement, by their keys. */
    public Map<String, Condition> meanings() {
        Map<String, Condition> meanings = new HashMap<>();
        calculations().forEach(c -> {
            if (c.expression() instanceof Expression.Holds(Condition condition)) {
                meanings.put(c.field().key(), condition);
            }
        });
        return meanings;
    }

    /** The calculations among them that are added to those of the register. */
    public List<Calculation> addedCalculations() {
        return calculations().stream().filter(c -> isAdded(c.field().key())).toList();
    }

    private boolean isAdded(String key) {
        return added.stream()
                .flatMap(a -> a.fields().stream())
                .anyMatch(f -> f.key().equals(key));
    }

    /** The key of a field and those of all that is calculated from it, at any depth. */
    public Set<String> restingOn(String key) {
        Set<String> resting = new HashSet<>(Set.of(key));
        boolean more = true;
        while (more) {
            more = calculations().stream()
                    .filter(c -> c.expression().fields().stream().anyMatch(resting::contains))
                    .map(c -> resting.add(c.field().key()))
                    .reduce(false, Boolean::logicalOr);
        }
        return resting;
    }

    /** The fields but for one and those that are calculated from it. */
    public Register without(String key) {
        Set<String> gone = restingOn(key);
        return register.with(register.fields().stream()
                .filter(f -> !gone.contains(f.key()))
                .filter(f -> f.ends()
                        .filter(e -> gone.contains(e.start()) || gone.contains(e.end()))
                        .isEmpty())
                .toList());
    }

    /** The register with one more calculated field, which is nobody else's. */
    public RegisterForReader with(Calculation calculation, String words) {
        return with(calculation, words, Optional.empty());
    }

    /**
     * The register with one more calculated field, which is nobody else's.
     *
     * @param reading the moment it is calculated at, where that is another than the question's
     */
    public RegisterForReader with(Calculation calculation, String words, Optional<Reading> reading) {
        return with(
                calculation.field(),
                new Notes(
                        FieldOrigin.CALCULATED,
                        calculation.field().column(),
                        RegisterDefinition.FieldDefinition.About.NOTHING,
                        Optional.empty(),
                        Optional.of(new Calculated(
                                words, Optional.of(calculation.expression()), Optional.empty(), reading))));
    }

    /** The register with one more field. */
    public RegisterForReader with(Field field, Notes known) {
        List<Field> fields = new ArrayList<>(register.fields());
        fields.add(field);
        Map<String, Notes> more = new LinkedHashMap<>(notes);
        more.put(field.key(), known);
        return new RegisterForReader(
                id,
                origin,
                register.with(fields),
                recordLabel,
                recordsLabel,
                description,
                shown,
                main,
                running,
                title,
                defaultOrder,
                more,
                hidden,
                limits,
                limitsInWords,
                members,
                gaps,
                table,
                viewerValues,
                added,
                closedUpTo,
                pastSince,
                transactions,
                mayChangeMany,
                version);
    }

    /** The calculated fields whose calculation names a field. */
    public List<Calculation> calculatedFrom(String key) {
        return calculations().stream()
                .filter(c -> c.expression().fields().contains(key))
                .toList();
    }

    /** What it should have and does not: what its members do not give, and why fields cannot be calculated any more. */
    public List<String> troubles() {
        return Stream.concat(
                        gaps.stream().map(Gap::words),
                        uncalculated().stream()
                                .map(f -> "“" + f.label()
                                        + "” cannot be calculated any more, and is empty in all records: "
                                        + notes.get(f.key())
                                                .calculated()
                                                .flatMap(Calculated::trouble)
                                                .orElse("")))
                .toList();
    }

    /** Its calculated fields that cannot be calculated any more: they are empty in all records. */
    public List<Field> uncalculated() {
        return calculated(c -> c.expression().isEmpty()).toList();
    }

    private Stream<Field> calculated(Predicate<Calculated> which) {
        return register.fields().stream()
                .filter(f -> notes.get(f.key()).calculated().filter(which).isPresent());
    }

    /** The keys of the fields that identify a record. */
    public Set<String> identifying() {
        return notes.entrySet().stream()
                .filter(n -> n.getValue().about().identifying())
                .map(Map.Entry::getKey)
                .collect(java.util.stream.Collectors.toSet());
    }
}
