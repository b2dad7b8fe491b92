package deftlens.server.live;

import deftlens.server.people.PeopleService;
import deftlens.server.people.SessionsService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.Upkeep;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.statements.Definitions;
import jakarta.servlet.http.HttpServletRequest;
import java.io.IOException;
import java.time.Duration;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.context.event.ContextClosedEvent;
import org.springframework.context.event.EventListener;
import org.springframework.http.MediaType;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import org.springframework.web.servlet.mvc.method.annotation.SseEmitter;

/** Tells open pages that records, or what their answers rest on, were changed, as server-sent events. */
@RestController
class ChangesController {

    private static final Logger LOG = LoggerFactory.getLogger(ChangesController.class);
    private static final int MOST_REGISTERS = 50;
    private static final int MOST_FOR_ONE = 20;

    /** The network of a page that is gone says so to the first word, and only the second one learns of it. */
    private static final Duration ANSWER_OF_A_CLOSED_PAGE = Duration.ofMillis(100);

    /** Of older answers than this it is not known what changed since. */
    private static final long OLDEST = Duration.ofDays(1).toMillis();
    /** How long a change may be on its way here. */
    private static final Duration MARGIN = Duration.ofSeconds(1);

    private final RegisterCatalogue registers;
    private final Changes changes;
    private final PeopleService people;
    private final SessionsService sessions;
    private final Definitions definitions;
    private final Map<SseEmitter, Listening> open = new ConcurrentHashMap<>();

    /**
     * Somebody who wants to know.
     *
     * @param keys the registers asked for
     * @param key what the line was opened with; it ends when that does
     * @param told what each register's answers rest on, as far as the listener knows
     */
    private record Listening(long person, Set<String> keys, SessionsService.Key key, Map<String, String> told) {}

    /** The registers whose records changed. */
    record Changed(Set<String> registers) {}

    /** What the answers of registers rest on now, as it is said with each answer; empty for one that is gone. */
    record Defined(Map<String, String> registers) {}

    ChangesController(
            RegisterCatalogue registers,
            Changes changes,
            PeopleService people,
            SessionsService sessions,
            Definitions definitions,
            Upkeep upkeep,
            @Value("${deft.limits.beat}") Duration beat) {
        this.registers = registers;
        this.changes = changes;
        this.people = people;
        this.sessions = sessions;
        this.definitions = definitions;
        upkeep.every(beat, this::beat);
        changes.tell(new Changes.Listener() {
            @Override
            public void records(Set<String> keys) {
                tell(keys);
            }

            @Override
            public void definitions() {
                tellDefinitions();
            }
        });
    }

    /**
     * An event “changed” with the keys of the registers whose records changed, at most some in a second. Whoever may see only
     * some records of a register is told of it every quarter of a minute, changed or not: a word at the moment of a change
     * would tell of records they may not see.
     *
     * <p>An event “defined” when a register's fields or bands, the organisation's calendar, or what the reader may see were
     * changed; it has, for each register that this matters to, what its answers say in their header X-Definitions.
     *
     * @param age how old, in milliseconds, the oldest answer is that the caller shows; registers that changed since are told at once
     * @param named the registers to be watched; all that the reader may see now, when absent
     */
    @GetMapping(path = "/api/changes", produces = MediaType.TEXT_EVENT_STREAM_VALUE)
    SseEmitter changes(
            @RequestParam(name = "registers") Optional<List<String>> named,
            @RequestParam Optional<Long> age,
            @AuthenticationPrincipal SignedIn who,
            HttpServletRequest request) {
        List<String> keys = named.orElseGet(
                () -> registers.all(who).stream().map(d -> d.register().key()).toList());
        if (named.isPresent() && keys.size() > MOST_REGISTERS) {
            throw Problem.badRequest(
                    "too-many-registers",
                    "At most " + MOST_REGISTERS + " registers can be named; name none to watch all that you may see.");
        }
        if (linesOf(who).size() >= MOST_FOR_ONE && linesOfPagesThatAreThere(who) >= MOST_FOR_ONE) {
            throw Problem.unprocessable("too-many-pages", "Too many pages are open; close some.");
        }
        keys.forEach(key -> registers.get(key, who));
        SseEmitter emitter = new SseEmitter(0L);
        emitter.onCompletion(() -> open.remove(emitter));
        emitter.onError(e -> open.remove(emitter));
        Listening listening =
                new Listening(who.id(), Set.copyOf(keys), sessions.key(request, who), new ConcurrentHashMap<>());
        news(listening);
        open.put(emitter, listening);
        send(emitter, SseEmitter.event().comment("open"));
        age.ifPresent(old -> tellMissed(emitter, listening, old));
        return emitter;
    }

    /** Tells of registers that changed while the caller was not listening yet. */
    private void tellMissed(SseEmitter emitter, Listening listening, long age) {
        Optional<Set<String>> changed = age < 0 || age > OLDEST
                ? Optional.empty()
                : changes.within(Duration.ofMillis(age).plus(MARGIN));
        Set<String> told = new HashSet<>();
        for (RegisterForReader described : seen(listening)) {
            // Whoever sees only some records is told whatever happened: silence would tell of the others.
            if (changed.isEmpty()
                    || isLimited(described, listening)
                    || !Collections.disjoint(sources(described), changed.get())) {
                told.add(described.register().key());
            }
        }
        tell(emitter, told);
    }

    private List<SseEmitter> linesOf(SignedIn who) {
        return open.entrySet().stream()
                .filter(line -> line.getValue().person() == who.id())
                .map(Map.Entry::getKey)
                .toList();
    }

    /** How many lines somebody has; those of pages that were closed without a word are found by writing to them, twice. */
    private int linesOfPagesThatAreThere(SignedIn who) {
        stillOpen();
        for (int i = 0; i < 2; i++) {
            linesOf(who).forEach(line -> send(line, SseEmitter.event().comment("")));
            try {
                Thread.sleep(ANSWER_OF_A_CLOSED_PAGE);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                break;
            }
        }
        return linesOf(who).size();
    }

    /** @param changed the registers whose records changed; empty when something may have been missed */
    private void tell(Set<String> changed) {
        stillOpen().forEach((emitter, listening) -> {
            Set<String> told = new HashSet<>();
            for (RegisterForReader described : seen(listening)) {
                if (!isLimited(described, listening)
                        && (changed.isEmpty() || !Collections.disjoint(sources(described), changed))) {
                    told.add(described.register().key());
                }
            }
            tell(emitter, told);
        });
    }

    private void tellDefinitions() {
        stillOpen().forEach((emitter, listening) -> {
            Map<String, String> news = news(listening);
            if (!news.isEmpty()) {
                send(emitter, SseEmitter.event().name("defined").data(new Defined(news)));
            }
        });
    }

    /** The stamps of the registers whose answers rest on something else than the listener knows; empty where one is gone. */
    private Map<String, String> news(Listening listening) {
        Map<String, String> news = new TreeMap<>();
        Optional<SignedIn> who = people.now(listening.person()).map(PeopleService.Standing::who);
        for (String key : listening.keys()) {
            Optional<Definitions.Stamp> now = who.flatMap(w -> definitions.of(key, w));
            String stamp = now.map(Definitions.Stamp::stamp).orElse("");
            if (!stamp.equals(listening.told().put(key, stamp))) {
                news.put(key, now.map(Definitions.Stamp::toString).orElse(""));
            }
        }
        return news;
    }

    private void tell(SseEmitter emitter, Set<String> keys) {
        if (!keys.isEmpty()) {
            send(emitter, SseEmitter.event().name("changed").data(new Changed(keys)));
        }
    }

    /** The registers of a listener that they may see, as of now. */
    private List<RegisterForReader> seen(Listening listening) {
        return people.now(listening.person()).map(PeopleService.Standing::who).stream()
                .flatMap(who -> listening.keys().stream().flatMap(key -> registers.find(key, who).stream()))
                .toList();
    }

    private static Set<String> sources(RegisterForReader described) {
        Set<String> sources = new HashSet<>(Set.of(described.register().key()));
        described.members().forEach(m -> sources.add(m.key()));
        return sources;
    }

    /** Whether somebody sees only some of a register's records. */
    private boolean isLimited(RegisterForReader described, Listening listening) {
        return people.now(listening.person())
                .map(PeopleService.Standing::who)
                .filter(who -> sources(described).stream()
                        .anyMatch(key -> !registers.limits(key, who).isEmpty()))
                .isPresent();
    }

    /** Ends the lines of those who are not signed in any more, and gives the others. */
    private Map<SseEmitter, Listening> stillOpen() {
        // A line that is opened while the database is asked is not among those asked about, and stays.
        Map<SseEmitter, Listening> left = new HashMap<>(open);
        Set<SessionsService.Key> known =
                sessions.thatWork(left.values().stream().map(Listening::key).collect(Collectors.toSet()));
        left.entrySet().removeIf(line -> {
            boolean over = !known.contains(line.getValue().key());
            if (over) {
                close(line.getKey(), SseEmitter::complete);
            }
            return over;
        });
        return left;
    }

    /** Keeps the lines open, notices those who left, and tells those who see only some records. */
    void beat() {
        stillOpen().forEach((emitter, listening) -> {
            send(emitter, SseEmitter.event().comment(""));
            tell(
                    emitter,
                    seen(listening).stream()
                            .filter(described -> isLimited(described, listening))
                            .map(described -> described.register().key())
                            .collect(Collectors.toSet()));
        });
    }

    private void send(SseEmitter emitter, SseEmitter.SseEventBuilder event) {
        try {
            emitter.send(event);
        } catch (IOException | IllegalStateException e) {
            close(emitter, line -> line.completeWithError(e));
        }
    }

    /** Ends a line, which may have broken in the same moment. */
    private void close(SseEmitter emitter, Consumer<SseEmitter> how) {
        open.remove(emitter);
        try {
            how.accept(emitter);
        } catch (IllegalStateException broken) {
            LOG.debug("a line was gone before it was ended", broken);
        }
    }

    /** Lets everybody go before the server waits for its last requests. */
    @EventListener
    void end(ContextClosedEvent event) {
        open.keySet().forEach(SseEmitter::complete);
    }
}
