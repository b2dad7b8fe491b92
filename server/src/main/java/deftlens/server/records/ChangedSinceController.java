package deftlens.server.records;

import com.fasterxml.jackson.annotation.JsonUnwrapped;
import deftlens.server.lanes.AsksRecords;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.ReadsOnly;
import deftlens.server.question.Question;
import deftlens.server.question.QuestionRequest;
import deftlens.server.question.Questions;
import deftlens.server.registers.RegisterCatalogue;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** What became of a question as time went by: which records entered, left and changed, and how many there were. */
@RestController
@RequestMapping("/api/registers/{key}")
class ChangedSinceController {

    private final ChangedSinceService service;
    private final RegisterCatalogue registers;
    private final Questions questions;

    ChangedSinceController(ChangedSinceService service, RegisterCatalogue registers, Questions questions) {
        this.service = service;
        this.registers = registers;
        this.questions = questions;
    }

    /**
     * A question with the moment that it is held against.
     *
     * @param since a day, which begins it, a local time or an instant
     */
    record SinceRequest(
            @JsonUnwrapped QuestionRequest question,
            @NotNull String since) {}

    /**
     * A question with the moments that its records are counted at.
     *
     * @param moments days, each read at its beginning, local times or instants
     */
    record NumbersRequest(
            @JsonUnwrapped QuestionRequest question,
            @NotNull @Size(min = 1, max = 60) List<@NotNull String> moments) {}

    /**
     * Which records entered a question, left it or changed in it since a moment, each with who changed it and why. Where nobody did,
     * only time went by. Of registers that are kept here.
     */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/changed-since")
    ChangedSinceService.ChangedSince changedSince(
            @PathVariable String key,
            @Valid @RequestBody SinceRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = Question.NAME_HEADER, required = false) Optional<String> name) {
        Question question = questions
                .question(registers.get(key, who), request.question(), who)
                .named(name);
        return service.since(
                question, questions.since(request.since(), request.question().zone()));
    }

    /** How many records a question had at several moments, each with the windows and the records of then. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/numbers-at")
    List<ChangedSinceService.NumberAt> numbersAt(
            @PathVariable String key,
            @Valid @RequestBody NumbersRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = Question.NAME_HEADER, required = false) Optional<String> name) {
        Question question = questions
                .question(registers.get(key, who), request.question(), who)
                .named(name);
        List<Instant> moments = request.moments().stream()
                .map(at -> questions.since(at, request.question().zone()))
                .toList();
        return service.numbers(question, moments);
    }
}
