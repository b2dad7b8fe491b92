package deftlens.server.imports;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.FileAttribute;
import java.nio.file.attribute.PosixFilePermission;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.List;
import java.util.Set;
import java.util.stream.Stream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Component;

/**
 * Where files wait until they are brought in: {@code deft.files}, below the data directory, or a fresh directory where there is
 * neither. Only this server's user can look into it. What a server before this one left there is deleted at the start: nobody
 * knows its name any more.
 */
@Component
class UploadDirectory {

    private static final Logger LOG = LoggerFactory.getLogger(UploadDirectory.class);
    private static final FileAttribute<Set<PosixFilePermission>> OWN_DIRECTORY =
            PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rwx------"));
    private static final FileAttribute<Set<PosixFilePermission>> OWN_FILE =
            PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------"));

    private static final int RECEIVING_HOURS = 2;

    private final Path directory;
    private final long began = System.currentTimeMillis();

    UploadDirectory(@Value("${deft.files:}") String files, @Value("${deft.data:}") String data) throws IOException {
        if (files.isBlank() && data.isBlank()) {
            this.directory = Files.createTempDirectory("deft-lens-files", OWN_DIRECTORY);
        } else {
            this.directory = files.isBlank() ? Path.of(data, "files") : Path.of(files);
            Files.createDirectories(directory, OWN_DIRECTORY);
            Files.setPosixFilePermissions(directory, PosixFilePermissions.fromString("rwx------"));
        }
        deleteBut(Set.of());
    }

    Path place() {
        return directory;
    }

    /** An empty file that only this server's user reads. */
    Path create(String name) throws IOException {
        return Files.createFile(directory.resolve(name), OWN_FILE);
    }

    /** Deletes a file, if it is there. */
    void delete(Path file) {
        try {
            Files.deleteIfExists(file);
        } catch (IOException e) {
            LOG.warn("a file that is not needed any more could not be deleted", e);
        }
    }

    /** Deletes everything but these. A file that is just being received is younger than {@value #RECEIVING_HOURS} hours. */
    final void deleteBut(Set<Path> kept) {
        List<Path> there;
        try (Stream<Path> files = Files.list(directory)) {
            there = files.filter(Files::isRegularFile).toList();
        } catch (IOException e) {
            LOG.warn("the directory of waiting files could not be looked through", e);
            return;
        }
        there.stream().filter(f -> !kept.contains(f) && !isReceived(f)).forEach(this::delete);
    }

    /** Whether a file is young enough to be on its way in. */
    private boolean isReceived(Path file) {
        try {
            long written = Files.getLastModifiedTime(file).toMillis();
            return written >= began && System.currentTimeMillis() - written < RECEIVING_HOURS * 3_600_000L;
        } catch (IOException e) {
            return false;
        }
    }
}
