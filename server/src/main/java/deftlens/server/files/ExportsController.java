package deftlens.server.files;

import com.fasterxml.jackson.annotation.JsonUnwrapped;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.ReadsOnly;
import deftlens.server.question.PresentationRequest;
import deftlens.server.question.Question;
import deftlens.server.question.QuestionRequest;
import deftlens.server.question.Questions;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import io.swagger.v3.oas.annotations.Parameter;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.validation.Valid;
import jakarta.validation.constraints.Size;
import java.io.IOException;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.springframework.http.HttpStatus;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.ObjectMapper;

/**
 * Files of questions that are too long for an address: the question is sent first, and the file is then fetched as a browser
 * fetches files.
 */
@RestController
@RequestMapping("/api")
class ExportsController {

    private static final int KEPT_MINUTES = 60;

    private final RegisterCatalogue registers;
    private final Questions questions;
    private final ResultFiles files;
    private final JdbcTemplate database;
    private final ObjectMapper json;

    ExportsController(
            RegisterCatalogue registers,
            Questions questions,
            ResultFiles files,
            JdbcTemplate database,
            ObjectMapper json) {
        this.registers = registers;
        this.questions = questions;
        this.files = files;
        this.database = database;
        this.json = json;
    }

    /**
     * A question whose answer is wanted as a file.
     *
     * @param name what the file is called; the register's label when absent
     * @param format {@code csv}, which is usual, {@code json}: an array of records, or {@code jsonl}: one on each line
     * @param times of CSV: {@code local}, by the clock of the question's zone, which stands in the head, or {@code offset}, with the
     *     offset in each cell; local when absent
     * @param bom of CSV: whether the file begins with a byte order mark
     */
    record ExportRequest(
            @JsonUnwrapped QuestionRequest question,
            @JsonUnwrapped PresentationRequest presentation,
            Optional<@Size(max = 200) String> name,
            Optional<String> format,
            Optional<String> times,
            Optional<Boolean> bom) {}

    /** Where the file is, for an hour, for whoever asked. */
    record PreparedFile(String file) {}

    /** Notes a question whose answer is wanted as a file; what does not fit is refused here. */
    @ReadsOnly
    @PostMapping("/registers/{key}/export")
    @ResponseStatus(HttpStatus.CREATED)
    PreparedFile prepare(
            @PathVariable String key, @Valid @RequestBody ExportRequest asked, @AuthenticationPrincipal SignedIn who) {
        questions.bind(question(registers.get(key, who), asked, who));
        files.format(asked.format());
        FileForm.of(asked.times(), asked.bom());
        UUID token = UUID.randomUUID();
        database.update(
                "insert into prepared_export (token, person_id, register_key, asked, made_at) values (?, ?, ?, cast(? as jsonb), clock_timestamp())",
                token,
                who.id(),
                key,
                json.writeValueAsString(asked));
        return new PreparedFile("/api/exports/" + token);
    }

    /** The file of a question that was sent before. */
    @GetMapping("/exports/{token}")
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
        ExportRequest asked = json.readValue((String) prepared.get("asked"), ExportRequest.class);
        send(registers.get((String) prepared.get("register_key"), who), asked, who, request, response);
    }

    /**
     * The result as a file: CSV (RFC 4180, UTF-8), {@code json}, an array of records, or {@code jsonl}, one on each line; {@code order} and {@code columns} are lists with commas, {@code shape} is JSON, of which the groups,
     * the part and the heads of columns count here. {@code times} is {@code local}, by the clock of the question's zone, which
     * stands in the head, or {@code offset}, with the offset in each cell; {@code bom} asks for a byte order mark.
     */
    @GetMapping("/registers/{key}/export.{format}")
    void export(
            @PathVariable String key,
            @PathVariable String format,
            @RequestParam Optional<String> statement,
            @RequestParam Optional<String> asOf,
            @RequestParam Optional<String> recordsAt,
            @RequestParam Optional<String> zone,
            @RequestParam Optional<String> order,
            @RequestParam Optional<String> columns,
            @RequestParam Optional<String> shape,
            @RequestParam Optional<String> name,
            @RequestParam Optional<String> times,
            @RequestParam Optional<Boolean> bom,
            @Parameter(hidden = true) @RequestParam Map<String, String> all,
            @AuthenticationPrincipal SignedIn who,
            HttpServletRequest request,
            HttpServletResponse response)
            throws IOException {
        ExportRequest asked = new ExportRequest(
                QuestionRequest.ofParameters(all),
                PresentationRequest.ofParameters(all, json),
                name,
                Optional.of(format),
                times,
                bom);
        send(registers.get(key, who), asked, who, request, response);
    }

    private void send(
            RegisterForReader register,
            ExportRequest asked,
            SignedIn who,
            HttpServletRequest request,
            HttpServletResponse response)
            throws IOException {
        files.send(
                request,
                response,
                asked.name().orElse(register.register().label()),
                question(register, asked, who),
                files.format(asked.format()),
                FileForm.of(asked.times(), asked.bom()));
    }

    /** Takes out what nobody came for. */
    void forget() {
        database.update(
                "delete from prepared_export where made_at < clock_timestamp() - ? * interval '1 minute'",
                KEPT_MINUTES);
    }

    private Question question(RegisterForReader register, ExportRequest asked, SignedIn who) {
        return questions.question(register, asked.question(), asked.presentation(), who);
    }
}
