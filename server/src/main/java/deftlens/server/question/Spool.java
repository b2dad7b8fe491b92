package deftlens.server.question;

import deftlens.server.people.SignedIn;
import deftlens.server.platform.PrivateDirectory;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.Optional;
import java.util.UUID;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Component;

/**
 * Sends long answers. What the database gives goes into a file of ours as fast as it comes, and from there to the reader as
 * fast as they take it; so a reader who reads slowly, or nothing, holds no connection to the database.
 */
@Component
public class Spool {

    private static final int BUFFER = 1 << 16;

    /** How far the file may be ahead of its reader, in bytes: nobody needs more of a file that nobody reads. */
    private static final long MAX_AHEAD = 64_000_000;

    private final PrivateDirectory directory;
    private final QuestionLanes lanes;

    Spool(QuestionLanes lanes, @Value("${deft.data:}") String data) throws IOException {
        this.lanes = lanes;
        this.directory = new PrivateDirectory(data, "spool");
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
     */
    public void send(
            SignedIn who, HttpServletRequest request, HttpServletResponse response, Runnable begin, Writing writing)
            throws IOException {
        Path file = directory.create(UUID.randomUUID().toString());
        try (FileChannel channel = FileChannel.open(file, StandardOpenOption.READ, StandardOpenOption.WRITE)) {
            Growing growing = new Growing(channel);
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

    /** A file that is written by one thread and read by another. */
    private static final class Growing extends OutputStream {
        private final FileChannel channel;
        private long written;
        private long sent;
        private boolean ended;
        private boolean abandoned;
        private Throwable failure;

        Growing(FileChannel channel) {
            this.channel = channel;
        }

        @Override
        public void write(int b) throws IOException {
            write(new byte[] {(byte) b}, 0, 1);
        }

        @Override
        public synchronized void write(byte[] bytes, int offset, int length) throws IOException {
            while (written - sent > MAX_AHEAD && !abandoned) {
                pause();
            }
            if (abandoned) {
                throw new IOException("nobody reads this any more");
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

        synchronized void abandon() {
            abandoned = true;
            notifyAll();
        }

        private synchronized void sent(long bytes) {
            sent = bytes;
            notifyAll();
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
                sent(at);
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
