package deftlens.server.rows;

import deftlens.core.condition.Condition;
import deftlens.server.people.SignedIn;
import deftlens.server.registers.RegisterCatalogue.Described;
import deftlens.server.statements.Questions;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import java.io.IOException;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.JsonNode;

/**
 * The records of a register under a question. A request may carry a header {@code X-Question} with a name of its own; a
 * DELETE of that name stops the question in the database.
 */
@RestController
@RequestMapping("/api")
class RowsController {

    private static final String NAME = "X-Question";
    private static final int USUAL_ROWS = 100;
    private static final int USUAL_VALUES = 50;

    private final RowsService rows;
    private final Questions questions;
    private final CsvFile csv;

    RowsController(RowsService rows, Questions questions, CsvFile csv) {
        this.rows = rows;
        this.questions = questions;
        this.csv = csv;
    }

    /** A page: the question, its order ({@code "-due"} is descending), its columns, where to go on. */
    record PageAsked(
            Optional<String> statement,
            Optional<JsonNode> condition,
            Optional<String> asOf,
            Optional<String> zone,
            Optional<List<String>> order,
            Optional<List<String>> columns,
            Optional<Integer> limit,
            Optional<String> after) {}

    record CountAsked(
            Optional<String> statement,
            Optional<JsonNode> condition,
            Optional<String> asOf,
            Optional<String> zone,
            Optional<Boolean> exact) {}

    record ValuesAsked(
            @NotNull String field,
            Optional<String> statement,
            Optional<JsonNode> condition,
            Optional<String> asOf,
            Optional<String> zone,
            Optional<Integer> limit) {}

    @PostMapping("/registers/{key}/rows")
    RowsService.Rows rows(
            @PathVariable String key,
            @RequestBody PageAsked asked,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        Described described = rows.register(key);
        return rows.rows(
                question(described, asked.statement(), asked.condition(), asked.asOf(), asked.zone(), who, name),
                rows.order(described, asked.order()),
                rows.columns(described, asked.columns()),
                asked.after(),
                asked.limit().orElse(USUAL_ROWS));
    }

    @PostMapping("/registers/{key}/count")
    RowsService.Count count(
            @PathVariable String key,
            @RequestBody CountAsked asked,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        Described described = rows.register(key);
        return rows.count(
                question(described, asked.statement(), asked.condition(), asked.asOf(), asked.zone(), who, name),
                asked.exact().orElse(false));
    }

    @PostMapping("/registers/{key}/values")
    RowsService.Values values(
            @PathVariable String key,
            @Valid @RequestBody ValuesAsked asked,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        Described described = rows.register(key);
        return rows.values(
                question(described, asked.statement(), asked.condition(), asked.asOf(), asked.zone(), who, name),
                rows.field(described, asked.field()),
                asked.limit().orElse(USUAL_VALUES));
    }

    @GetMapping("/registers/{key}/records/{id}")
    RowsService.Row record(@PathVariable String key, @PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        Described described = rows.register(key);
        return rows.record(
                question(
                        described,
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty(),
                        who,
                        Optional.empty()),
                id);
    }

    /** The whole result as a file; {@code order} and {@code columns} are lists with commas. */
    @GetMapping(path = "/registers/{key}/export.csv", produces = "text/csv")
    void export(
            @PathVariable String key,
            @RequestParam Optional<String> statement,
            @RequestParam Optional<String> asOf,
            @RequestParam Optional<String> zone,
            @RequestParam Optional<String> order,
            @RequestParam Optional<String> columns,
            @RequestParam Optional<String> name,
            @AuthenticationPrincipal SignedIn who,
            HttpServletResponse response)
            throws IOException {
        Described described = rows.register(key);
        csv.send(
                response,
                name.orElse(described.register().label()),
                question(described, statement, Optional.empty(), asOf, zone, who, Optional.empty()),
                rows.order(described, order.map(RowsController::list)),
                rows.columns(described, columns.map(RowsController::list)));
    }

    @DeleteMapping("/questions/{name}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void stop(@PathVariable String name, @AuthenticationPrincipal SignedIn who) {
        rows.stop(who, name);
    }

    private RowsService.Question question(
            Described described,
            Optional<String> statement,
            Optional<JsonNode> tree,
            Optional<String> asOf,
            Optional<String> zone,
            SignedIn who,
            Optional<String> name) {
        Condition condition = questions.condition(described.register(), statement, tree);
        return new RowsService.Question(described, condition, questions.reading(asOf, zone), who, name);
    }

    private static List<String> list(String text) {
        return Arrays.stream(text.split(",")).filter(s -> !s.isBlank()).toList();
    }
}
