package deftlens.server.lanes;

import deftlens.server.platform.Problem;
import org.springframework.http.HttpStatus;

/** A question on its way through the lanes. */
final class Ticket {

    /** Where it is. */
    enum Place {
        TRIED,
        WAITING,
        RUNNING
    }

    final long person;
    private volatile Place place = Place.TRIED;
    private Attempt attempt;
    private boolean stopped;
    private Runnable onStop = () -> {};

    Ticket(long person) {
        this.person = person;
    }

    Place place() {
        return place;
    }

    void at(Place now) {
        place = now;
    }

    /** Begins a run of it, unless it was stopped meanwhile. */
    synchronized void begin(Attempt run) {
        if (stopped) {
            throw stopped();
        }
        attempt = run;
    }

    synchronized void whenStopped(Runnable act) {
        onStop = act;
        if (stopped) {
            act.run();
        }
    }

    synchronized void stop() {
        stopped = true;
        if (attempt != null) {
            attempt.stop();
        }
        onStop.run();
    }

    synchronized boolean isStopped() {
        return stopped;
    }

    static Problem stopped() {
        return new Problem(HttpStatus.SERVICE_UNAVAILABLE, "stopped", "The question was stopped.");
    }
}
