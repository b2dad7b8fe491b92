package deftlens.server.lanes;

import deftlens.server.platform.Problem;
import java.time.Duration;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Future;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.function.Supplier;
import org.springframework.beans.factory.DisposableBean;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;

/**
 * Work that only needs the processor and may need it for long: reading and checking long statements. Requests run on as few
 * threads as there are processors, which such work would keep from all others; so it is done on threads of its own, with a
 * deadline.
 */
@Component
public class ProcessorWork implements DisposableBean {

    private static final int THREADS = 2;
    private static final int MOST_WAITING = 50;
    private static final Duration DEADLINE = Duration.ofSeconds(10);

    private final ThreadPoolExecutor threads = new ThreadPoolExecutor(
            THREADS,
            THREADS,
            1,
            TimeUnit.MINUTES,
            new ArrayBlockingQueue<>(MOST_WAITING),
            Thread.ofPlatform().daemon().name("processor-work-", 0).factory());

    /**
     * Does work and gives its result; what it throws is thrown.
     *
     * @throws Problem with the code {@code busy} where too much waits, {@code took-too-long} where it is not done in time
     */
    public <T> T run(Supplier<T> work) {
        Future<T> result;
        try {
            result = threads.submit(work::get);
        } catch (RejectedExecutionException e) {
            throw new Problem(
                            HttpStatus.SERVICE_UNAVAILABLE,
                            "busy",
                            "Too many long statements are being read. Try again in a moment.")
                    .retryAfter(Duration.ofSeconds(5));
        }
        try {
            return result.get(DEADLINE.toMillis(), TimeUnit.MILLISECONDS);
        } catch (TimeoutException e) {
            result.cancel(true);
            throw new Problem(
                    HttpStatus.SERVICE_UNAVAILABLE,
                    "took-too-long",
                    "This statement takes too long to be read. Make it shorter: values of one field are listed in one criterion.");
        } catch (ExecutionException e) {
            throw e.getCause() instanceof RuntimeException own ? own : new IllegalStateException(e.getCause());
        } catch (InterruptedException e) {
            result.cancel(true);
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    @Override
    public void destroy() {
        threads.shutdownNow();
    }
}
