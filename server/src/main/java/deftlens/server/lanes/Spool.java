package deftlens.server.lanes;

import deftlens.server.people.SignedIn;
import deftlens.server.platform.PrivateDirectory;
import deftlens.server.platform.Problem;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.time.Duration;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;
import org.springframework.util.unit.DataSize;

/**
 * Sends long answers. What the database gives goes into a file of ours as fast as it comes, and from there to the reader as
 * fast as they take it; so a reader who reads slowly, or nothing, holds neither a connection to the database nor a place among
 * the files. How much may lie here is limited for each person, and by what is free on the disk; a file that comes to such a limit
 * breaks off.
 */
@Component
public class Spool {

    private static final int BUFFER = 1 << 16;

    /** What stays free on the disk whatever is asked for, in bytes. */
    private static final long LEFT_FREE = 1_000_000_000;

    /** How many bytes are written between two looks at what is free. */
    private static final long BETWEEN_LOOKS = 1 << 24;

    /** How long a file is written, in nanoseconds, before it looks whether others are at work. */
    private static final long TURN = 40_000_000;

    /** At most this long counts as a turn: the rest of it was waiting for the database. */
    private static final long LONGEST_TURN = 5 * TURN;

    private static final int MOST_OTHERS = 3;

    private final PrivateDirectory directory;
    private final QuestionLanes lanes;
    private final long mostOfOne;
    private final Map<Long, Long> lying = new ConcurrentHashMap<>();

    Spool(
            QuestionLanes lanes,
            @Value("${deft.data:}") String data,
            @Value("${deft.limits.files-of-one}") DataSize mostOfOne)
            throws IOException {
        this.lanes = lanes;
        this.directory = new PrivateDirectory(data, "spool");
        this.mostOfOne = mostOfOne.toBytes();
    }

    /** Writes the whole answer. */
    @FunctionalInterface
    public interface Writing {
        void to(OutputStream out) throws IOException;
    }

    /**
     * Sends an answer. Nothing is sent before its first bytes, or its end, are there, so that a refusal can still be a refusal.
     *
     * @param begin sets the head of the response
     * @throws Problem {@code too-many-files} when what lies here for this person already is as much as may
     */
    public void send(
            SignedIn who, HttpServletRequest request, HttpServletResponse response, Runnable begin, Writing writing)
            throws IOException {
        if (lying.getOrDefault(who.id(), 0L) >= mostOfOne) {
            throw tooMuch();
        }
        requireFree();
        Path file = directory.create(UUID.randomUUID().toString());
        try (FileChannel channel = FileChannel.open(file, StandardOpenOption.READ, StandardOpenOption.WRITE)) {
            Growing growing = new Growing(channel, who.id());
            Optional<DepartedClients.Line> client = Optional.of(DepartedClients.Line.of(request));
            // Writing a file takes the processor for long: on a thread that the machine lets take turns with others.
            Thread.ofPlatform().daemon().name("export").start(() -> {
                try {
                    lanes.export(who, client, () -> {
                        writing.to(growing);
                        return null;
                    });
                    growing.end(null);
                } catch (Throwable e) {
                    growing.end(e);
                }
            });
            try {
                growing.awaitFirst();
                begin.run();
                growing.sendTo(response.getOutputStream());
            } finally {
                // Also where the reader went away: what is still being written then fails, and with it the query.
                growing.abandon();
            }
        } finally {
            directory.delete(file);
        }
    }

    private Problem tooMuch() {
        return new Problem(
                        HttpStatus.SERVICE_UNAVAILABLE,
                        "too-many-files",
                        "Your files that are still on their way take more than " + mostOfOne / 1_000_000
                                + " MB. Wait until they are there, or stop one.")
                .retryAfter(Duration.ofSeconds(30));
    }

    /** Takes space for a person before it is written; what is not free is refused. */
    private void take(long person, long bytes) {
        long now = lying.merge(person, bytes, Long::sum);
        if (now > mostOfOne) {
            throw tooMuch();
        }
    }

    private void giveBack(long person, long bytes) {
        lying.computeIfPresent(person, (p, all) -> all - bytes <= 0 ? null : all - bytes);
    }

    private void requireFree() {
        if (directory.free() < LEFT_FREE) {
            throw new Problem(
                            HttpStatus.INSUFFICIENT_STORAGE,
                            "disk-full",
                            "There is no space on the server for this file. Ask for fewer records or columns, and tell whoever runs it.")
                    .retryAfter(Duration.ofMinutes(5));
        }
    }

    /** A file that is written by one thread and read by another. */
    private final class Growing extends OutputStream {
        private final FileChannel channel;
        private final long person;
        private long written;
        private long taken;
        private long turnBegan = System.nanoTime();
        private boolean ended;
        private boolean abandoned;
        private Throwable failure;

        Growing(FileChannel channel, long person) {
            this.channel = channel;
            this.person = person;
        }

        @Override
        public void write(int b) throws IOException {
            write(new byte[] {(byte) b}, 0, 1);
        }

        @Override
        public void write(byte[] bytes, int offset, int length) throws IOException {
            append(bytes, offset, length);
            giveWay();
        }

        /**
         * A file takes the processor, of ours and of the database, for as long as it lasts; whoever waits for a page does not
         * wait for that. Each other piece of work gets as long a turn as the file had.
         */
        private void giveWay() throws IOException {
            long now = System.nanoTime();
            if (now - turnBegan < TURN) {
                return;
            }
            int others = Math.min(MOST_OTHERS, lanes.running() - 1);
            if (others > 0) {
                try {
                    TimeUnit.NANOSECONDS.sleep(Math.min(now - turnBegan, LONGEST_TURN) * others);
                } catch (InterruptedException e) {
                    Thread.currentThread().interrupt();
                    throw new IOException(e);
                }
            }
            turnBegan = System.nanoTime();
        }

        private synchronized void append(byte[] bytes, int offset, int length) throws IOException {
            if (abandoned) {
                throw new IOException("nobody reads this any more");
            }
            taken += length;
            take(person, length);
            if (written / BETWEEN_LOOKS != taken / BETWEEN_LOOKS) {
                requireFree();
            }
            ByteBuffer buffer = ByteBuffer.wrap(bytes, offset, length);
            while (buffer.hasRemaining()) {
                written += channel.write(buffer, written);
            }
            notifyAll();
        }

        synchronized void end(Throwable with) {
            ended = true;
            failure = with;
            notifyAll();
        }

        /** Nobody reads on; nothing more is written after this. */
        synchronized void abandon() {
            abandoned = true;
            giveBack(person, taken);
            taken = 0;
        }

        synchronized void awaitFirst() throws IOException {
            while (!ended && written < BUFFER) {
                pause();
            }
            if (ended) {
                requireWhole();
            }
        }

        void sendTo(OutputStream out) throws IOException {
            byte[] buffer = new byte[BUFFER];
            long at = 0;
            for (int n = next(buffer, at); n >= 0; n = next(buffer, at)) {
                out.write(buffer, 0, n);
                at += n;
            }
            out.flush();
        }

        private int next(byte[] buffer, long from) throws IOException {
            synchronized (this) {
                while (!ended && written == from) {
                    pause();
                }
                if (written == from) {
                    // What broke off in the middle must not look whole: the connection is broken off as well.
                    requireWhole();
                    return -1;
                }
            }
            return channel.read(ByteBuffer.wrap(buffer), from);
        }

        private void pause() throws IOException {
            try {
                wait();
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                throw new IOException(e);
            }
        }

        private void requireWhole() throws IOException {
            switch (failure) {
                case null -> {}
                case RuntimeException e -> throw e;
                case IOException e -> throw e;
                default -> throw new IOException(failure);
            }
        }
    }
}
