package deftlens.server.live;

import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.registers.Described;
import deftlens.server.registers.RegisterCatalogue;
import java.io.IOException;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.springframework.context.event.ContextClosedEvent;
import org.springframework.context.event.EventListener;
import org.springframework.http.MediaType;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import org.springframework.web.servlet.mvc.method.annotation.SseEmitter;

/** Tells open pages that records changed, as server-sent events. */
@RestController
class ChangesController {

    private static final int MOST_REGISTERS = 50;
    private static final int MOST_FOR_ONE = 20;

    private final RegisterCatalogue registers;
    private final Map<SseEmitter, Listening> open = new ConcurrentHashMap<>();

    /**
     * Somebody who wants to know.
     *
     * @param sources the registers asked for, by the register whose records are read
     */
    private record Listening(long person, Map<String, Set<String>> sources) {}

    /** The registers whose records changed. */
    record Changed(Set<String> registers) {}

    ChangesController(RegisterCatalogue registers, Changes changes) {
        this.registers = registers;
        changes.tell(this::tell);
    }

    /** An event “changed” with the keys of the registers whose records changed, at most some in a second. */
    @GetMapping(path = "/api/changes", produces = MediaType.TEXT_EVENT_STREAM_VALUE)
    SseEmitter changes(@RequestParam(name = "registers") List<String> keys, @AuthenticationPrincipal SignedIn who) {
        if (keys.size() > MOST_REGISTERS) {
            throw Problem.badRequest("too-many-registers", "At most " + MOST_REGISTERS + " registers can be watched.");
        }
        if (open.values().stream().filter(l -> l.person() == who.id()).count() >= MOST_FOR_ONE) {
            throw Problem.unprocessable("too-many-pages", "Too many pages are open; close some.");
        }
        Map<String, Set<String>> sources = new ConcurrentHashMap<>();
        for (String key : keys) {
            Described described = registers.get(key, who);
            source(sources, key, key);
            described.members().forEach(m -> source(sources, m.key(), key));
        }
        SseEmitter emitter = new SseEmitter(0L);
        emitter.onCompletion(() -> open.remove(emitter));
        emitter.onError(e -> open.remove(emitter));
        open.put(emitter, new Listening(who.id(), sources));
        send(emitter, SseEmitter.event().comment("open"));
        return emitter;
    }

    private static void source(Map<String, Set<String>> sources, String from, String key) {
        sources.computeIfAbsent(from, f -> new HashSet<>()).add(key);
    }

    private void tell(Set<String> changed) {
        open.forEach((emitter, listening) -> {
            Set<String> told = new HashSet<>();
            listening.sources().forEach((from, keys) -> {
                // An empty set: something may have been missed.
                if (changed.isEmpty() || changed.contains(from)) {
                    told.addAll(keys);
                }
            });
            if (!told.isEmpty()) {
                send(emitter, SseEmitter.event().name("changed").data(new Changed(told)));
            }
        });
    }

    /** Keeps the lines open, and notices those who left. */
    @Scheduled(fixedDelay = 15_000)
    void beat() {
        open.keySet().forEach(emitter -> send(emitter, SseEmitter.event().comment("")));
    }

    private void send(SseEmitter emitter, SseEmitter.SseEventBuilder event) {
        try {
            emitter.send(event);
        } catch (IOException | IllegalStateException e) {
            open.remove(emitter);
            emitter.completeWithError(e);
        }
    }

    /** Lets everybody go before the server waits for its last requests. */
    @EventListener
    void end(ContextClosedEvent event) {
        open.keySet().forEach(SseEmitter::complete);
    }
}
