package deftlens.server.registers;

import deftlens.core.condition.Fit;
import deftlens.core.condition.Verb;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Measure;
import deftlens.core.field.Option;
import deftlens.core.field.Register;
import deftlens.core.sql.Groups;
import deftlens.core.sql.Page;
import deftlens.server.platform.AsTexts;
import java.time.Instant;
import java.time.LocalDate;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * A register as the reader sees it.
 *
 * @param key what its records are asked for by; with fields added to it, more than the register's own
 * @param register the key of the register itself
 * @param recordLabel one record in words: {@code ledger entry}
 * @param recordsLabel several records in words: {@code ledger entries}
 * @param capabilities what can be done with its records, or is known of them, beside reading them
 * @param table the table or database view of an attached register
 * @param gaps what it should have and does not, each in a sentence: of its members, where it is combined, and fields that cannot be
 *     calculated any more
 * @param tests the tests of each type that a field of it has, by the type's name
 * @param running the number whose sum so far means something: a balance, a number on hand
 * @param viewerValues what may follow “my” in a statement
 * @param limits the statements that limit which records the reader sees, of which one must hold; none is no limit
 * @param limitsInWords the same as people read them, in the labels of the fields
 * @param hiddenFields how many fields are not shown to the reader
 * @param added the keys of the calculated fields that are added to the register's own
 * @param pastSince from when on its records can be read as they stood; absent where they are not kept here
 * @param closedUpTo the last day of its main date whose records are closed; absent where all are open
 * @param transactions how its records are posted together, where they are and the reader sees all the fields of that
 * @param mayChangeMany whether the reader may change many of its records at once, and post transactions
 * @param version the version of the catalogue's entry, to be sent back with a change
 */
public record RegisterDescription(
        String key,
        String register,
        String label,
        String recordLabel,
        String recordsLabel,
        String description,
        Origin origin,
        Set<Origin.Capability> capabilities,
        Optional<String> table,
        List<RegisterForReader.Member> members,
        List<String> gaps,
        List<FieldDescription> fields,
        Map<String, List<Test>> tests,
        List<String> columns,
        List<OrderKey> order,
        Optional<String> mainField,
        Optional<String> running,
        String titleField,
        List<String> viewerValues,
        List<String> limits,
        List<String> limitsInWords,
        int hiddenFields,
        List<String> added,
        Optional<LocalDate> closedUpTo,
        Optional<Instant> pastSince,
        Optional<TransactionRules> transactions,
        boolean mayChangeMany,
        int version) {

    /**
     * A test of fields of a type.
     *
     * @param words the words of the language, which name it in conditions
     * @param takes what follows them
     * @param label what it is called in a list of tests to choose from
     * @param phrase what stands before a window, as statements say it
     * @param offered whether such a list has it; the others are usually said in another way
     * @param first whether a new criterion begins with it
     * @param opposite the words of its exact opposite, where the language has some
     * @param compares whether another field of the record can stand in the place of a value
     */
    public record Test(
            String words,
            Verb.Takes takes,
            String label,
            String phrase,
            boolean offered,
            boolean first,
            Optional<String> opposite,
            boolean compares) {

        static Test of(FieldType type, Verb verb) {
            return new Test(
                    verb.words(),
                    verb.takes(),
                    verb.label(),
                    verb.phrase(),
                    verb.isOffered(type),
                    verb == Verb.first(type),
                    verb.opposite().map(Verb::words),
                    verb.relation().isPresent());
        }
    }

    /**
     * A field as the reader sees it.
     *
     * @param tests the words of the tests that fit it; what they are is said once for its type, in the register's {@code tests}
     * @param others the keys of the fields that can stand in the place of a value, by the words of the test; no others can
     * @param viewerValues what may follow {@code my}, or stand by itself as {@code me}, in the place of its value
     * @param groupings what the records of a group can have in common, the usual one first; none where it makes no groups
     * @param measures the figures that several records have of it, the usual one first
     * @param calculation how it comes to its value, where it is calculated
     */
    public record FieldDescription(
            String key,
            String label,
            String type,
            boolean required,
            boolean orderable,
            List<Option> options,
            List<BandJson> bands,
            Optional<Field.Ends> ends,
            List<String> tests,
            Map<String, List<String>> others,
            List<Groups.Kind> groupings,
            List<MeasureDescription> measures,
            List<String> viewerValues,
            String description,
            String unit,
            boolean useful,
            boolean identifying,
            boolean correctable,
            FieldOrigin origin,
            List<RegisterDefinition.Relation> relates,
            @AsTexts List<Long> correctors,
            Optional<CalculationDescription> calculation) {}

    /**
     * How a calculated field comes to its value.
     *
     * @param words in the language
     * @param trouble why it cannot be calculated any more, and is empty in all records; absent where it can be
     */
    public record CalculationDescription(String words, Optional<String> trouble) {}

    /**
     * A figure that several records have of a field.
     *
     * @param words what it is called before the field's label: {@code sum of}, {@code earliest}
     * @param type what the figure is: of different values a number, otherwise as the field is
     */
    public record MeasureDescription(Measure.Function function, String words, String type) {}

    public record OrderKey(String field, boolean descending, boolean emptiesFirst) {}

    /** A register as a person sees it. */
    public static RegisterDescription of(RegisterForReader described) {
        return new RegisterDescription(
                described.key(),
                described.register().key(),
                described.register().label(),
                described.recordLabel(),
                described.recordsLabel(),
                described.description(),
                described.origin(),
                described.origin().capabilities(),
                described.origin() == Origin.ATTACHED
                        ? Optional.of(described.table().name())
                        : Optional.empty(),
                described.members(),
                described.troubles(),
                described.register().fields().stream()
                        .map(f -> field(described, f, described.notes().get(f.key())))
                        .toList(),
                tests(described.register()),
                described.shown().stream().map(Field::key).toList(),
                described.defaultOrder().keys().stream()
                        .map(k -> new OrderKey(k.field().key(), k.descending(), k.emptiesFirst()))
                        .toList(),
                described.main().map(Field::key),
                described.running().map(Field::key),
                described.title().key(),
                described.viewerValues(),
                described.limits(),
                described.limitsInWords(),
                described.hidden().size(),
                described.added().stream()
                        .flatMap(a -> a.fields().stream())
                        .map(AddedFields.AddedField::key)
                        .filter(key -> described.register().field(key).isPresent())
                        .toList(),
                described.closedUpTo(),
                described.pastSince(),
                described.transactions(),
                described.mayChangeMany() && described.can(Origin.Capability.RECORDS),
                described.version());
    }

    private static Map<String, List<Test>> tests(Register register) {
        Map<String, List<Test>> tests = new LinkedHashMap<>();
        register.fields()
                .forEach(field -> tests.computeIfAbsent(
                        field.type().label(),
                        label -> Verb.of(field.type()).stream()
                                .map(verb -> Test.of(field.type(), verb))
                                .toList()));
        return tests;
    }

    private static Map<String, List<String>> others(Register register, Field field) {
        Map<String, List<String>> others = new LinkedHashMap<>();
        for (Verb verb : Verb.of(register, field)) {
            List<Field> found = Fit.others(register, field, verb);
            if (!found.isEmpty()) {
                others.put(verb.words(), found.stream().map(Field::key).toList());
            }
        }
        return others;
    }

    /** Of a choice only the fact of that name makes sense: {@code site is my site}, {@code to_site is my site}. */
    private static List<String> viewerValues(RegisterForReader described, Field field) {
        return switch (field.type()) {
            case PERSON -> List.of("me");
            case CHOICE ->
                described.viewerValues().stream()
                        .filter(v -> field.key().equals(v) || field.key().endsWith("_" + v))
                        .toList();
            case TEXT -> described.viewerValues();
            case NUMBER, MONEY, DURATION, YES_NO, TAGS, DATE, MOMENT, TIME, SPAN -> List.of();
        };
    }

    private static FieldDescription field(RegisterForReader described, Field field, RegisterForReader.Notes notes) {
        Register register = described.register();
        return new FieldDescription(
                field.key(),
                field.label(),
                field.type().label(),
                field.required(),
                Page.isOrderable(field.type()),
                field.options(),
                field.bands().stream().map(BandJson::of).toList(),
                field.ends(),
                Verb.words(register, field),
                others(register, field),
                Groups.Kind.of(field),
                Measure.Function.of(field.type()).stream()
                        .map(f -> new MeasureDescription(
                                f,
                                f.words(field.type()),
                                Measure.of(f, field).type().label()))
                        .toList(),
                viewerValues(described, field),
                notes.about().description(),
                notes.about().unit(),
                notes.about().useful(),
                notes.about().identifying(),
                notes.about().correctable(),
                notes.origin(),
                notes.about().relates(),
                notes.about().correctors(),
                notes.calculated().map(c -> new CalculationDescription(c.words(), c.trouble())));
    }
}
