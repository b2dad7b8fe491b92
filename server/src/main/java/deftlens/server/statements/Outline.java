package deftlens.server.statements;

import deftlens.core.condition.Condition;
import deftlens.core.field.Register;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Wording;
import deftlens.core.time.Reading;
import deftlens.core.time.Window;
import io.swagger.v3.oas.annotations.media.Schema;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
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
        List<Outline> parts) {

    /** The outline of a condition over a register at a reading. */
    public static Outline of(Condition condition, Register register, Reading reading) {
        return of(condition, "", register, reading);
    }

    private static Outline of(Condition condition, String path, Register register, Reading reading) {
        return switch (condition) {
            case Condition.Criterion criterion -> {
                Wording.Phrase phrase = Wording.phrase(criterion, register);
                Optional<WindowAccount> window =
                        Wording.stands(criterion, register, reading).map(stands -> account(path, criterion, stands));
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
                        List.of());
            }
            case Condition.All(List<Condition> parts) -> group("all", condition, parts, path, register, reading);
            case Condition.Any(List<Condition> parts) -> group("any", condition, parts, path, register, reading);
            case Condition.None(List<Condition> parts) -> group("none", condition, parts, path, register, reading);
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
                        List.of(of(part, path + "/off", register, reading)));
        };
    }

    private static Outline group(
            String kind, Condition group, List<Condition> parts, String path, Register register, Reading reading) {
        List<Outline> lines = new ArrayList<>();
        for (int i = 0; i < parts.size(); i++) {
            lines.add(of(parts.get(i), path + "/" + kind + "/" + i, register, reading));
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
                window.zone().getId());
    }
}
