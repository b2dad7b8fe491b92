package deftlens.server.statements;

import deftlens.core.condition.Condition;
import deftlens.core.field.Register;
import deftlens.core.statement.Completion;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import deftlens.core.time.Period;
import deftlens.core.time.Reading;
import deftlens.core.time.Window;
import deftlens.core.time.Windows;
import deftlens.server.organisation.OrganisationService;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.registers.RegisterCatalogue;
import jakarta.validation.Valid;
import jakarta.validation.constraints.Max;
import jakarta.validation.constraints.Min;
import jakarta.validation.constraints.NotNull;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.Month;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.JsonNode;

/** Reading statements, proposing how they go on, resolving date phrases. */
@RestController
@RequestMapping("/api")
class StatementsController {

    private final RegisterCatalogue registers;
    private final Questions questions;
    private final OrganisationService organisation;

    StatementsController(RegisterCatalogue registers, Questions questions, OrganisationService organisation) {
        this.registers = registers;
        this.questions = questions;
        this.organisation = organisation;
    }

    /** A question in words or as a tree. */
    record Asked(
            Optional<String> statement, Optional<JsonNode> condition, Optional<String> asOf, Optional<String> zone) {}

    /** What a date phrase in a statement stands for. */
    record WindowAccount(
            String path,
            String phrase,
            String words,
            boolean rolling,
            Optional<String> length,
            String kind,
            Optional<LocalDate> firstDay,
            Optional<LocalDate> dayAfterLast,
            Instant start,
            Instant end,
            String zone) {}

    /** Something the checker noticed. */
    record Finding(String code, String level, String message, String path) {}

    /** A statement that was read. */
    record Read(
            String statement,
            JsonNode condition,
            List<WindowAccount> windows,
            List<Finding> findings,
            Outline outline,
            Instant asOf) {}

    record Started(@NotNull String text, @Min(0) int position) {}

    /** One phrase to resolve, by default in the organisation's calendar. */
    record Phrase(
            @NotNull String phrase,
            Optional<Instant> now,
            Optional<String> zone,
            Optional<String> weekStarts,
            Optional<@Min(1) @Max(12) Integer> fiscalYearStartsMonth) {}

    /** A resolved phrase. */
    record Resolved(
            String phrase,
            String kind,
            Optional<LocalDate> firstDay,
            Optional<LocalDate> dayAfterLast,
            Instant start,
            Instant end,
            boolean rolling,
            boolean oneDay) {}

    @PostMapping("/registers/{key}/statement")
    Read statement(@PathVariable String key, @RequestBody Asked asked, @AuthenticationPrincipal SignedIn who) {
        Register register = registers.get(key).register();
        Condition condition = questions.condition(register, asked.statement(), asked.condition());
        Reading reading = questions.reading(asked.asOf(), asked.zone());
        questions.bind(register, condition, reading, who);
        Outline outline = Outline.of(condition, register, reading);
        return new Read(
                Printer.print(condition),
                ConditionJson.write(condition),
                outline.windows(),
                List.of(),
                outline,
                reading.now());
    }

    @PostMapping("/registers/{key}/complete")
    Completion.Answer complete(@PathVariable String key, @Valid @RequestBody Started started) {
        return new Completion(registers.get(key).register(), PeopleService.ATTRIBUTES)
                .at(started.text(), started.position());
    }

    @PostMapping("/windows/resolve")
    Resolved resolve(@Valid @RequestBody Phrase asked) {
        Period period = Reader.period(asked.phrase());
        Reading own = organisation.reading(asked.now(), asked.zone().map(Questions::zone));
        Reading reading = new Reading(
                own.now(),
                own.zone(),
                asked.weekStarts().map(StatementsController::day).orElse(own.weekStarts()),
                asked.fiscalYearStartsMonth().map(Month::of).orElse(own.fiscalYearStarts()),
                own.working());
        Window window = Windows.resolve(period, reading);
        boolean days = window instanceof Window.Days;
        return new Resolved(
                Printer.period(period),
                days ? "days" : "instants",
                window instanceof Window.Days d ? Optional.of(d.firstDay()) : Optional.empty(),
                window instanceof Window.Days d ? Optional.of(d.dayAfterLast()) : Optional.empty(),
                window.start(),
                window.end(),
                period.isRolling(),
                Printer.isOneDay(period));
    }

    private static DayOfWeek day(String name) {
        try {
            return DayOfWeek.valueOf(name.toUpperCase(Locale.ROOT));
        } catch (IllegalArgumentException e) {
            throw Problem.badRequest("bad-week-start", "“" + name + "” is no day of the week; write MONDAY … SUNDAY.");
        }
    }
}
