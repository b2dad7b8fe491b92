package deftlens.server.lanes;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import deftlens.server.platform.Problem;
import java.time.Duration;
import java.util.List;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;

class WaitingLaneTest {

    private final WaitingLane lane = new WaitingLane(2, 5, 3, Duration.ofSeconds(30));
    private final BlockingQueue<String> told = new ArrayBlockingQueue<>(50);

    /** Enters as soon as there is a place; when this returns, it waits or is in. */
    private Ticket come(String name, long person) throws InterruptedException {
        Ticket ticket = new Ticket(person);
        Thread.ofVirtual().start(() -> {
            try {
                lane.enter(ticket);
                told.add(name + " in");
            } catch (Problem problem) {
                told.add(name + " " + problem.code());
            }
        });
        while (ticket.place() == Ticket.Place.TRIED && told.stream().noneMatch(t -> t.startsWith(name + " "))) {
            Thread.onSpinWait();
        }
        return ticket;
    }

    private String next() throws InterruptedException {
        return told.poll(5, TimeUnit.SECONDS);
    }

    @Test
    void whoHasNothingOnTheLaneGoesBeforeWhoHas() throws InterruptedException {
        Ticket one = come("a1", 1);
        assertThat(next()).isEqualTo("a1 in");
        Ticket two = come("a2", 1);
        assertThat(next()).isEqualTo("a2 in");
        Ticket three = come("a3", 1);
        Ticket other = come("b1", 2);
        assertThat(lane.before(three)).isEqualTo(2);
        assertThat(lane.before(other)).isEqualTo(3);
        lane.leave(one);
        assertThat(next()).isEqualTo("b1 in");
        lane.leave(other);
        assertThat(next()).isEqualTo("a3 in");
        lane.leave(two);
        lane.leave(three);
        assertThat(lane.before(three)).isZero();
    }

    @Test
    void tooManyAreToldHowManyAreBefore() throws InterruptedException {
        come("a1", 1);
        come("a2", 1);
        assertThat(List.of(next(), next())).containsExactlyInAnyOrder("a1 in", "a2 in");
        for (int i = 3; i <= 5; i++) {
            come("a" + i, 1);
        }
        assertThatThrownBy(() -> lane.enter(new Ticket(1))).isInstanceOfSatisfying(Problem.class, p -> {
            assertThat(p.code()).isEqualTo("busy");
            assertThat(p.getMessage()).startsWith("The database is busy: 3 questions of your own");
            assertThat(p.headers().getFirst("Retry-After")).isEqualTo("5");
        });
        come("b1", 2);
        come("c1", 3);
        assertThatThrownBy(() -> lane.enter(new Ticket(4)))
                .hasMessageStartingWith("The database is busy: 5 questions that take longer wait already");
    }

    @Test
    void whatIsStoppedWhileItWaitsIsOut() throws InterruptedException {
        Ticket one = come("a1", 1);
        come("a2", 1);
        assertThat(List.of(next(), next())).containsExactlyInAnyOrder("a1 in", "a2 in");
        Ticket waits = come("b1", 2);
        waits.stop();
        assertThat(next()).isEqualTo("b1 stopped");
        Ticket after = come("c1", 3);
        assertThat(lane.before(after)).isEqualTo(2);
        lane.leave(one);
        assertThat(next()).isEqualTo("c1 in");
    }

    @Test
    void nobodyWaitsForEver() {
        WaitingLane narrow = new WaitingLane(1, 5, 5, Duration.ofMillis(20));
        Ticket first = new Ticket(1);
        narrow.enter(first);
        Ticket second = new Ticket(2);
        assertThatThrownBy(() -> narrow.enter(second))
                .hasMessageStartingWith("The database is busy: 0 questions that take longer are before yours");
        narrow.leave(first);
        narrow.enter(second);
    }
}
