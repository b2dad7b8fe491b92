package deftlens.server.lanes;

import deftlens.server.platform.Problem;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.springframework.http.HttpStatus;

/**
 * A lane with a few places and a queue before it. Whoever has nothing on the lane goes before whoever has; otherwise first
 * come, first served. So one person's many questions hold up nobody else's first.
 */
final class WaitingLane {

    private final int places;
    private final int mostWaiting;
    private final int mostOfOne;
    private final Duration longestWait;
    private final List<Waiting> waiting = new ArrayList<>();
    private final Map<Long, Integer> running = new HashMap<>();
    private int taken;

    private record Waiting(Ticket ticket, CountDownLatch turn) {}

    /**
     * A lane nobody is on.
     *
     * @param places how many run at a time
     * @param mostWaiting how many wait at the most
     * @param mostOfOne how many of one person's wait at the most
     * @param longestWait how long anybody waits
     */
    WaitingLane(int places, int mostWaiting, int mostOfOne, Duration longestWait) {
        this.places = places;
        this.mostWaiting = mostWaiting;
        this.mostOfOne = mostOfOne;
        this.longestWait = longestWait;
    }

    /**
     * Waits for a place. Whoever gets one gives it back with {@link #leave}.
     *
     * @throws Problem with the code {@code busy} where too many wait, or the wait was too long
     */
    void enter(Ticket ticket) {
        Waiting own = new Waiting(ticket, new CountDownLatch(1));
        synchronized (this) {
            long ofOne = waiting.stream()
                    .filter(w -> w.ticket().person == ticket.person)
                    .count();
            if (ofOne >= mostOfOne) {
                throw busy((int) ofOne, "questions of your own that take longer wait already");
            }
            if (waiting.size() >= mostWaiting) {
                throw busy(waiting.size(), "questions that take longer wait already");
            }
            waiting.add(own);
            letIn();
        }
        ticket.at(Ticket.Place.WAITING);
        ticket.whenStopped(() -> giveUp(own));
        boolean in = false;
        try {
            in = own.turn().await(longestWait.toMillis(), TimeUnit.MILLISECONDS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
        synchronized (this) {
            ticket.whenStopped(() -> {});
            // Its turn may have come while it gave up waiting.
            if (waiting.contains(own)) {
                int before = waiting.indexOf(own);
                waiting.remove(own);
                throw in || ticket.isStopped()
                        ? Ticket.stopped()
                        : busy(before, "questions that take longer are before yours");
            }
            if (ticket.isStopped()) {
                free(ticket);
                throw Ticket.stopped();
            }
        }
        ticket.at(Ticket.Place.RUNNING);
    }

    private void giveUp(Waiting own) {
        own.turn().countDown();
    }

    /** Gives a place back. */
    synchronized void leave(Ticket ticket) {
        free(ticket);
    }

    private void free(Ticket ticket) {
        running.computeIfPresent(ticket.person, (p, n) -> n == 1 ? null : n - 1);
        taken--;
        letIn();
    }

    private void letIn() {
        while (taken < places && !waiting.isEmpty()) {
            Waiting next = waiting.stream()
                    .filter(w -> !running.containsKey(w.ticket().person))
                    .findFirst()
                    .orElse(waiting.get(0));
            waiting.remove(next);
            running.merge(next.ticket().person, 1, Integer::sum);
            taken++;
            next.turn().countDown();
        }
    }

    /** How many are before whoever comes now. */
    synchronized int length() {
        return waiting.size() + taken;
    }

    /** How many are before one that waits. */
    synchronized int before(Ticket ticket) {
        for (int i = 0; i < waiting.size(); i++) {
            if (waiting.get(i).ticket() == ticket) {
                return i + taken;
            }
        }
        return 0;
    }

    private static Problem busy(int before, String what) {
        return new Problem(
                        HttpStatus.SERVICE_UNAVAILABLE,
                        "busy",
                        "The database is busy: " + before + " " + what
                                + ". Try again in a moment, or narrow the question with a date window.")
                .with("before", before)
                .retryAfter(Duration.ofSeconds(5));
    }
}
