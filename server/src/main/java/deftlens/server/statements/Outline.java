package deftlens.server.statements;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Elsewhere;
import deftlens.core.condition.Test;
import deftlens.core.field.Register;
import deftlens.core.statement.Asks;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Wording;
import deftlens.core.time.Reading;
import deftlens.core.time.Window;
import deftlens.server.question.ConditionJson;
import io.swagger.v3.oas.annotations.media.Schema;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import tools.jackson.databind.JsonNode;

/**
 * The condition as a paragraph for reading: one line for each part, in the order of the tree.
 *
 * @param path the part's JSON Pointer in the condition
 * @param kind criterion, all, any, none or off
 * @param node the part itself
 * @param field the field's key, for a criterion
 * @param fieldWords the field in running text
 * @param verb the test in running text
 * @param object what follows the test, possibly empty
 * @param tone PLAIN, TIME or VIEWER
 * @param statement the criterion in the language
 * @param window what its date phrase stands for
 * @param hours which working hours or days it is about, for a test of them
 * @param parts the parts of a group, or the one part that is off
 */
@Schema(name = "Outline")
public record Outline(
        String path,
        String kind,
        JsonNode node,
        Optional<String> field,
        Optional<String> fieldWords,
        Optional<String> verb,
        Optional<String> object,
        Optional<Wording.Tone> tone,
        Optional<String> statement,
        Optional<WindowAccount> window,
        Optional<String> hours,
        List<Outline> parts) {

    /**
     * The outline of a condition over a register at a reading.
     *
     * @param condition the condition with its blanks
     * @param answered the same with the reader's answers in their place
     * @param elsewhere where values are looked for besides
     */
    public static Outline of(
            Condition condition, Condition answered, Register register, Elsewhere elsewhere, Reading reading) {
        Map<String, Condition.Criterion> filled = new HashMap<>();
        collect(answered, "", filled);
        return of(condition, "", register, elsewhere, reading, filled);
    }

    private static void collect(Condition part, String path, Map<String, Condition.Criterion> into) {
        switch (part) {
            case Condition.Criterion criterion -> into.put(path, criterion);
            case Condition.Off(Condition inner) -> collect(inner, path + "/off", into);
            case Condition.All(List<Condition> parts) -> collect(parts, path + "/all/", into);
            case Condition.Any(List<Condition> parts) -> collect(parts, path + "/any/", into);
            case Condition.None(List<Condition> parts) -> collect(parts, path + "/none/", into);
        }
    }

    private static void collect(List<Condition> parts, String path, Map<String, Condition.Criterion> into) {
        for (int i = 0; i < parts.size(); i++) {
            collect(parts.get(i), path + i, into);
        }
    }

    /** A criterion as it is read: with the answers that were given, and the labels they were asked under. */
    private static Wording.Phrase phrase(
            Condition.Criterion open, Condition.Criterion filled, Register register, Elsewhere elsewhere) {
        Wording.Phrase asked = Wording.phrase(open, register, elsewhere);
        if (filled.equals(open)) {
            return asked;
        }
        Wording.Phrase answered = Wording.phrase(filled, register, elsewhere);
        String labels = Asks.of(open).stream().map(a -> " ‹" + a.label() + "›").collect(Collectors.joining());
        return new Wording.Phrase(answered.field(), answered.verb(), answered.object() + labels, asked.tone());
    }

    private static Outline of(
            Condition condition,
            String path,
            Register register,
            Elsewhere elsewhere,
            Reading reading,
            Map<String, Condition.Criterion> filled) {
        return switch (condition) {
            case Condition.Criterion criterion -> {
                Condition.Criterion answered = filled.getOrDefault(path, criterion);
                Wording.Phrase phrase = phrase(criterion, answered, register, elsewhere);
                Optional<WindowAccount> window =
                        Wording.stands(answered, register, reading).map(stands -> account(path, answered, stands));
                yield new Outline(
                        path,
                        "criterion",
                        ConditionJson.write(criterion),
                        Optional.of(criterion.field()),
                        Optional.of(phrase.field()),
                        Optional.of(phrase.verb()),
                        Optional.of(phrase.object()),
                        Optional.of(phrase.tone()),
                        Optional.of(Printer.criterion(criterion)),
                        window,
                        answered.test() instanceof Test.Working
                                ? Optional.of(reading.working().words() + " · "
                                        + reading.zone().getId())
                                : Optional.empty(),
                        List.of());
            }
            case Condition.All(List<Condition> parts) ->
                group("all", condition, parts, path, register, elsewhere, reading, filled);
            case Condition.Any(List<Condition> parts) ->
                group("any", condition, parts, path, register, elsewhere, reading, filled);
            case Condition.None(List<Condition> parts) ->
                group("none", condition, parts, path, register, elsewhere, reading, filled);
            case Condition.Off(Condition part) ->
                new Outline(
                        path,
                        "off",
                        ConditionJson.write(condition),
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty(),
                        List.of(of(part, path + "/off", register, elsewhere, reading, filled)));
        };
    }

    private static Outline group(
            String kind,
            Condition group,
            List<Condition> parts,
            String path,
            Register register,
            Elsewhere elsewhere,
            Reading reading,
            Map<String, Condition.Criterion> filled) {
        List<Outline> lines = new ArrayList<>();
        for (int i = 0; i < parts.size(); i++) {
            lines.add(of(parts.get(i), path + "/" + kind + "/" + i, register, elsewhere, reading, filled));
        }
        return new Outline(
                path,
                kind,
                ConditionJson.write(group),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                lines);
    }

    /** All windows of the outline, in order. */
    public List<WindowAccount> windows() {
        List<WindowAccount> found = new ArrayList<>();
        window.ifPresent(found::add);
        parts.forEach(part -> found.addAll(part.windows()));
        return found;
    }

    private static WindowAccount account(String path, Condition.Criterion criterion, Wording.Stands stands) {
        Window window = stands.window();
        boolean days = window instanceof Window.Days;
        return new WindowAccount(
                path,
                Printer.test(criterion),
                stands.words(),
                stands.rolling(),
                stands.length(),
                days ? "days" : "instants",
                window instanceof Window.Days d ? Optional.of(d.firstDay()) : Optional.empty(),
                window instanceof Window.Days d ? Optional.of(d.dayAfterLast()) : Optional.empty(),
                window.start(),
                window.end(),
                window.zone().getId(),
                stands.reach().from(),
                stands.reach().to(),
                stands.reach().outside());
    }
}
