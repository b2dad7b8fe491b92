package deftlens.demo;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.testing.TestCluster;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.List;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What ./deft does with processes and files, with stand-ins for the server that look like it to the machine. */
class DeftCommandTest {

    @TempDir
    Path data;

    private Process server;

    @AfterEach
    void end() {
        if (server != null) {
            server.destroyForcibly();
        }
    }

    private record Said(int code, String words) {}

    private Said deft(String... words) throws IOException, InterruptedException {
        ProcessBuilder command = new ProcessBuilder();
        command.command().add(TestCluster.root().resolve("deft").toString());
        command.command().addAll(List.of(words));
        command.command().addAll(List.of("--data", data.toString()));
        Path out = Files.createTempFile("deft", ".out");
        Process process =
                command.redirectErrorStream(true).redirectOutput(out.toFile()).start();
        assertThat(process.waitFor(2, TimeUnit.MINUTES)).isTrue();
        Said said = new Said(process.exitValue(), Files.readString(out));
        Files.delete(out);
        return said;
    }

    /** A process that the machine lists as the server of the data directory. */
    private void startSomethingLikeIt() throws IOException {
        server = new ProcessBuilder(
                        "bash",
                        "-c",
                        "exec -a \"java -Ddeft.data=" + data.toRealPath()
                                + " -cp x deftlens.server.Application\" sleep 300")
                .start();
        // What the machine lists, which is also what ./deft looks at; the shell before it has a list of its own.
        Path listed = Path.of("/proc", Long.toString(server.pid()), "cmdline");
        long end = System.nanoTime() + TimeUnit.SECONDS.toNanos(20);
        while (!Files.readString(listed).startsWith("java -Ddeft.data=")) {
            assertThat(System.nanoTime()).as("the stand-in has started").isLessThan(end);
            Thread.onSpinWait();
        }
    }

    @Test
    void aServerWhoseFileIsLostIsFoundAndStopped() throws IOException, InterruptedException {
        startSomethingLikeIt();
        Said stopped = deft("stop");
        assertThat(stopped.words()).contains("server stopped");
        assertThat(server.waitFor(20, TimeUnit.SECONDS)).isTrue();
        assertThat(deft("stop").words()).contains("no server is running");
    }

    @Test
    void theFileOfAProcessThatLivesIsNeverDeleted() throws IOException, InterruptedException {
        // As it is before a child has become the server.
        server = new ProcessBuilder("sleep", "300").start();
        Path file = data.resolve("server.pid");
        Files.writeString(file, server.pid() + "\n");
        assertThat(deft("stop").words()).contains("no server is running");
        assertThat(file).exists();
        server.destroyForcibly().waitFor();
        deft("stop");
        assertThat(file).doesNotExist();
    }

    @Test
    void nothingIsPutBackUnderAServerThatLives() throws IOException, InterruptedException {
        startSomethingLikeIt();
        Path copy = Files.writeString(data.resolve("copy"), "no copy");
        Said refused = deft("restore", copy.toString());
        assertThat(refused.code()).isEqualTo(1);
        assertThat(refused.words()).contains("The server is running. Stop it first");
    }

    @Test
    void aBackupIsForItsMakersEyesOnly() throws IOException, InterruptedException {
        TestCluster.freshDatabase("deft");
        Files.createSymbolicLink(data.resolve("database"), TestCluster.root().resolve(".deft/test"));
        Path copy = data.resolve("copy");
        Said written = deft("backup", copy.toString());
        assertThat(written.code()).as(written.words()).isZero();
        assertThat(written.words()).contains("the passwords of linked servers");
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(copy)))
                .isEqualTo("rw-------");
        Said again = deft("backup", copy.toString());
        assertThat(again.code()).isEqualTo(1);
        assertThat(again.words()).contains("is there already and is left as it is");
    }
}
