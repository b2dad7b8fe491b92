package deftlens.server.statements;

import deftlens.core.field.Register;
import deftlens.core.statement.Completion;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Proposals;
import deftlens.core.statement.Reader;
import deftlens.core.statement.TypedWindow;
import deftlens.core.statement.Wording;
import deftlens.core.time.Fixing;
import deftlens.core.time.Period;
import deftlens.core.time.Reading;
import deftlens.core.time.Window;
import deftlens.core.time.Windows;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.ReadsOnly;
import deftlens.server.question.ConditionJson;
import deftlens.server.question.Questions;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
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
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.JsonNode;

/** Proposing how statements go on, resolving date phrases. */
@RestController
@RequestMapping("/api")
class StatementsController {

    private final RegisterCatalogue registers;
    private final Questions questions;

    StatementsController(RegisterCatalogue registers, Questions questions) {
        this.registers = registers;
        this.questions = questions;
    }

    record Started(@NotNull String text, @Min(0) int position) {}

    /** One phrase to resolve, by default in the organisation's calendar; {@code now} is an instant, or a day read at its noon. */
    record Phrase(
            @NotNull String phrase,
            Optional<String> now,
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

    /** What may stand at a place of a statement. */
    @ReadsOnly
    @PostMapping("/registers/{key}/complete")
    Completion.Answer complete(
            @PathVariable String key, @Valid @RequestBody Started started, @AuthenticationPrincipal SignedIn who) {
        RegisterForReader described = registers.get(key, who);
        return new Completion(described.register(), questions.attributes(), questions.elsewhere(described, who))
                .at(started.text(), started.position());
    }

    /**
     * A few typed words.
     *
     * @param text at most {@value Proposals#LONGEST} characters of it are looked at
     */
    record Sought(@NotNull String text, Optional<String> asOf, Optional<String> zone) {}

    /**
     * What a part of the words may mean.
     *
     * @param typed the part
     * @param meanings the criteria, the likeliest first
     */
    record SoughtPart(String typed, List<Meaning> meanings) {}

    /** A criterion, in the language, as a tree and as people read it. */
    record Meaning(String statement, JsonNode condition, String words) {}

    /**
     * Reads a few words, such as {@code north quay open safety last month}, as criteria of a register. Nothing is decided: each
     * part has all its meanings. Words that join others, and those that mean nothing here, are left out.
     */
    @ReadsOnly
    @PostMapping("/registers/{key}/proposals")
    List<SoughtPart> proposals(
            @PathVariable String key, @Valid @RequestBody Sought sought, @AuthenticationPrincipal SignedIn who) {
        RegisterForReader described = registers.get(key, who);
        Register register = described.register();
        return new Proposals(
                        register,
                        described.main(),
                        described.title(),
                        described.notes().entrySet().stream()
                                .filter(n -> n.getValue().about().identifying())
                                .map(Map.Entry::getKey)
                                .collect(Collectors.toSet()),
                        questions.attributes(),
                        questions.reading(sought.asOf(), sought.zone()))
                .read(sought.text()).stream()
                        .map(p -> new SoughtPart(
                                p.typed(),
                                p.meanings().stream()
                                        .map(m -> new Meaning(
                                                Printer.criterion(m),
                                                ConditionJson.write(m),
                                                String.join(" and ", Wording.lines(m, register))))
                                        .toList()))
                        .toList();
    }

    /** A fixed phrase for what a phrase stands for now, and the rolling ones for what a fixed one stands for. */
    record Alternatives(String phrase, String fixed, List<String> rolling) {}

    /** A rolling date phrase as the fixed days that it stands for now, and the other way round. */
    @ReadsOnly
    @PostMapping("/windows/fix")
    Alternatives fix(@Valid @RequestBody Phrase asked) {
        Period period = Reader.period(asked.phrase());
        Reading reading = reading(asked);
        return new Alternatives(
                Printer.period(period),
                Printer.period(Fixing.fix(period, reading)),
                Fixing.loosen(period, reading).stream().map(Printer::period).toList());
    }

    /** The windows of the same length right before and right after; absent where there is none. */
    record Neighbours(String phrase, Optional<String> before, Optional<String> after) {}

    /** The window before a date phrase’s and the one after it. */
    @ReadsOnly
    @PostMapping("/windows/neighbours")
    Neighbours neighbours(@Valid @RequestBody Phrase asked) {
        Period period = Reader.period(asked.phrase());
        Reading reading = reading(asked);
        return new Neighbours(
                Printer.period(period),
                Fixing.neighbour(period, false, reading).map(Printer::period),
                Fixing.neighbour(period, true, reading).map(Printer::period));
    }

    /**
     * What somebody may mean who typed a window as people write it: {@code Q3}, {@code mon last week}, {@code 3/11}.
     *
     * @param readings the phrases it may stand for, the likeliest first; none when it stands for nothing known, one when there
     *     is no doubt
     * @param repeating what it says that repeats in the calendar, which is a test and no window: {@code March in any year}
     */
    record Typed(String text, List<Resolved> readings, Optional<Repeating> repeating) {}

    /**
     * What repeats in the calendar.
     *
     * @param test the test that asks for it: {@code month in}, {@code weekday in}
     * @param number from 1 for January or Monday
     */
    record Repeating(String test, int number) {}

    /** A date as somebody types it. */
    @ReadsOnly
    @PostMapping("/windows/read")
    Typed read(@Valid @RequestBody Phrase asked) {
        Reading reading = reading(asked);
        return new Typed(
                asked.phrase(),
                TypedWindow.read(asked.phrase(), reading).stream()
                        .map(p -> resolved(Reader.period(p), reading))
                        .toList(),
                TypedWindow.repeating(asked.phrase())
                        .map(r -> new Repeating(r.part().words() + " in", r.number())));
    }

    /** What a date phrase stands for at a moment, in a zone: days, or instants. */
    @ReadsOnly
    @PostMapping("/windows/resolve")
    Resolved resolve(@Valid @RequestBody Phrase asked) {
        return resolved(Reader.period(asked.phrase()), reading(asked));
    }

    private static Resolved resolved(Period period, Reading reading) {
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

    private Reading reading(Phrase asked) {
        Reading own = questions.reading(asked.now(), asked.zone());
        return new Reading(
                own.now(),
                own.zone(),
                asked.weekStarts().map(StatementsController::day).orElse(own.weekStarts()),
                asked.fiscalYearStartsMonth().map(Month::of).orElse(own.fiscalYearStarts()),
                own.working());
    }

    private static DayOfWeek day(String name) {
        try {
            return DayOfWeek.valueOf(name.toUpperCase(Locale.ROOT));
        } catch (IllegalArgumentException e) {
            throw Problem.badRequest("bad-week-start", "“" + name + "” is no day of the week; write MONDAY … SUNDAY.");
        }
    }
}
