package deftlens.server.interchange;

import deftlens.core.condition.Binder;
import deftlens.core.condition.Condition;
import deftlens.core.field.Register;
import deftlens.core.interchange.Cql2;
import deftlens.core.statement.Printer;
import deftlens.core.time.Reading;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.ReadsOnly;
import deftlens.server.question.ConditionJson;
import deftlens.server.question.QuestionRequest;
import deftlens.server.question.Questions;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

/** Questions in the open filter language OGC CQL2, written and read. */
@RestController
@RequestMapping("/api/registers/{key}/cql2")
class InterchangeController {

    private final RegisterCatalogue registers;
    private final Questions questions;
    private final ObjectMapper json;

    InterchangeController(RegisterCatalogue registers, Questions questions, ObjectMapper json) {
        this.registers = registers;
        this.questions = questions;
        this.json = json;
    }

    /** A filter in both encodings, with what its reader should know. */
    record Cql2Written(String text, JsonNode json, List<String> notes) {}

    /** A filter in one of the two encodings. */
    record Cql2Filter(Optional<String> text, Optional<JsonNode> json, Optional<String> zone) {}

    /** A filter as a statement of ours, with what was taken in a way that could be doubted. */
    record Cql2Read(String statement, JsonNode condition, List<String> notes) {}

    /** A question as a filter in OGC CQL2, in both encodings; what CQL2 has no words for is refused by name. */
    @ReadsOnly
    @PostMapping("/write")
    Cql2Written write(
            @PathVariable String key, @RequestBody QuestionRequest asked, @AuthenticationPrincipal SignedIn who) {
        RegisterForReader register = registers.get(key, who);
        Condition condition = questions.condition(register, asked, who);
        Reading reading = questions.reading(asked.asOf(), asked.zone());
        questions.bind(register, condition, reading, who);
        Binder binder = questions.binder(register, reading, who);
        try {
            Cql2.Written written = Cql2.write(condition, binder);
            return new Cql2Written(written.text(), json.valueToTree(written.json()), written.notes());
        } catch (Cql2.NotCarried e) {
            throw refuse(e);
        }
    }

    /** A filter in OGC CQL2 as a question of ours. */
    @ReadsOnly
    @PostMapping("/read")
    Cql2Read read(@PathVariable String key, @RequestBody Cql2Filter filter, @AuthenticationPrincipal SignedIn who) {
        Register register = registers.get(key, who).register();
        Reading reading = questions.reading(Optional.empty(), filter.zone());
        boolean tree = Questions.isSent(filter.json());
        if (tree == filter.text().isPresent()) {
            throw Problem.badRequest("one-filter", "Send the filter as “text” or as “json”, one of the two.");
        }
        try {
            Cql2.Read read = tree
                    ? Cql2.readJson(plain(filter.json().orElseThrow()), register, reading)
                    : Cql2.read(filter.text().orElseThrow(), register, reading);
            return new Cql2Read(Printer.print(read.condition()), ConditionJson.write(read.condition()), read.notes());
        } catch (Cql2.NotCarried e) {
            throw refuse(e);
        }
    }

    private static Problem refuse(Cql2.NotCarried e) {
        return Problem.unprocessable("cql2-not-carried", e.getMessage()).with("where", e.where());
    }

    /** JSON as the core takes it. */
    private static Object plain(JsonNode node) {
        if (node.isObject()) {
            Map<String, Object> map = new LinkedHashMap<>();
            node.properties().forEach(e -> map.put(e.getKey(), plain(e.getValue())));
            return map;
        }
        if (node.isArray()) {
            List<Object> list = new ArrayList<>();
            node.forEach(item -> list.add(plain(item)));
            return list;
        }
        return node.isString()
                ? node.stringValue()
                : node.isNumber() ? node.decimalValue() : node.isBoolean() ? node.booleanValue() : null;
    }
}
