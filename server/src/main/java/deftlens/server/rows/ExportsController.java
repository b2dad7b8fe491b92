package deftlens.server.rows;

import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.ReadsOnly;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.statements.Asking;
import deftlens.server.statements.Questions;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.validation.Valid;
import jakarta.validation.constraints.Size;
import java.io.IOException;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.springframework.http.HttpStatus;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

/**
 * Files of questions that are too long for an address: the question is sent first, and the file is then fetched as a browser
 * fetches files.
 */
@RestController
@RequestMapping("/api")
class ExportsController {

    private static final int KEPT_MINUTES = 60;

    private final RowsService rows;
    private final Questions questions;
    private final CsvFile csv;
    private final JdbcTemplate database;
    private final ObjectMapper json;

    ExportsController(RowsService rows, Questions questions, CsvFile csv, JdbcTemplate database, ObjectMapper json) {
        this.rows = rows;
        this.questions = questions;
        this.csv = csv;
        this.database = database;
        this.json = json;
    }

    /**
     * A question whose answer is wanted as a file.
     *
     * @param name what the file is called; the register's label when absent
     * @param shape of which the groups, the part and the heads of columns count here
     * @param times {@code local} or {@code offset}, as in the address of a file
     * @param bom whether the file begins with a byte order mark
     */
    record ExportAsked(
            Optional<String> statement,
            Optional<JsonNode> condition,
            Optional<String> asOf,
            Optional<String> zone,
            Optional<Map<String, String>> answers,
            Optional<List<String>> order,
            Optional<List<String>> columns,
            Optional<Shape> shape,
            Optional<@Size(max = 200) String> name,
            Optional<String> times,
            Optional<Boolean> bom)
            implements Asking {}

    /** Where the file is, for an hour, for whoever asked. */
    record PreparedFile(String file) {}

    /** Notes a question whose answer is wanted as a file; what does not fit is refused here. */
    @ReadsOnly
    @PostMapping("/registers/{key}/export")
    @ResponseStatus(HttpStatus.CREATED)
    PreparedFile prepare(
            @PathVariable String key, @Valid @RequestBody ExportAsked asked, @AuthenticationPrincipal SignedIn who) {
        RegisterForReader described = rows.register(key, who);
        RowsService.Question question = question(described, asked, who);
        questions.bind(described.register(), question.condition(), question.reading(), who);
        Orders.order(described, asked.order(), question.condition());
        Orders.columns(described, asked.columns());
        asked.shape().orElse(Shape.USUAL).checked(described);
        CsvFile.Form.of(asked.times(), asked.bom());
        UUID token = UUID.randomUUID();
        database.update(
                "insert into prepared_export (token, person_id, register_key, asked, made_at) values (?, ?, ?, cast(? as jsonb), clock_timestamp())",
                token,
                who.id(),
                key,
                json.writeValueAsString(asked));
        return new PreparedFile("/api/exports/" + token);
    }

    /** The file of a question that was sent before, as CSV (RFC 4180, UTF-8). */
    @GetMapping(path = "/exports/{token}", produces = "text/csv")
    void file(
            @PathVariable UUID token,
            @AuthenticationPrincipal SignedIn who,
            HttpServletRequest request,
            HttpServletResponse response)
            throws IOException {
        Map<String, Object> prepared = database
                .queryForList(
                        "select register_key, cast(asked as text) as asked from prepared_export where token = ? and person_id = ?",
                        token,
                        who.id())
                .stream()
                .findFirst()
                .orElseThrow(() -> Problem.notFound("This file (it is there for an hour)"));
        ExportAsked asked = json.readValue((String) prepared.get("asked"), ExportAsked.class);
        RegisterForReader described = rows.register((String) prepared.get("register_key"), who);
        RowsService.Question question = question(described, asked, who);
        csv.send(
                request,
                response,
                asked.name().orElse(described.register().label()),
                question,
                Orders.order(described, asked.order(), question.condition()),
                Orders.columns(described, asked.columns()),
                asked.shape().orElse(Shape.USUAL).checked(described),
                CsvFile.Form.of(asked.times(), asked.bom()));
    }

    /** Takes out what nobody came for. */
    @Scheduled(fixedDelay = 600_000, initialDelay = 600_000)
    void forget() {
        database.update(
                "delete from prepared_export where made_at < clock_timestamp() - ? * interval '1 minute'",
                KEPT_MINUTES);
    }

    private RowsService.Question question(RegisterForReader described, ExportAsked asked, SignedIn who) {
        return new RowsService.Question(
                described,
                questions.condition(described.register(), asked),
                questions.reading(asked.asOf(), asked.zone()),
                who,
                Optional.empty());
    }
}
