package deftlens.server.platform;

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

/**
 * A directory that only this server's user can look into, for files that are not kept: below the data directory, or a fresh
 * one where there is none. What a server before this one left there is deleted: nobody knows its name any more.
 */
public final class PrivateDirectory {

    private static final Logger LOG = LoggerFactory.getLogger(PrivateDirectory.class);
    private static final Set<PosixFilePermission> OWN_DIRECTORY = PosixFilePermissions.fromString("rwx------");
    private static final FileAttribute<Set<PosixFilePermission>> OWN_FILE =
            PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------"));

    /** How long a file may be on its way in, in hours, before it counts as left behind. */
    private static final int RECEIVING_HOURS = 2;

    private final Path place;
    private final long began = System.currentTimeMillis();

    /**
     * Makes the directory, or takes the one that is there.
     *
     * @param data the data directory; blank for none
     * @throws IOException where it cannot be made
     */
    public PrivateDirectory(String data, String name) throws IOException {
        FileAttribute<Set<PosixFilePermission>> own = PosixFilePermissions.asFileAttribute(OWN_DIRECTORY);
        if (data.isBlank()) {
            this.place = Files.createTempDirectory("deft-lens-" + name, own);
        } else {
            this.place = Path.of(data, name);
            Files.createDirectories(place, own);
            Files.setPosixFilePermissions(place, OWN_DIRECTORY);
        }
        deleteBut(Set.of());
    }

    /** Where it is; for nobody's messages. */
    public Path place() {
        return place;
    }

    /** How many bytes are free where it lies; none where that cannot be told. */
    public long free() {
        return place.toFile().getUsableSpace();
    }

    /** An empty file that only this server's user reads. */
    public Path create(String name) throws IOException {
        return Files.createFile(place.resolve(name), OWN_FILE);
    }

    /** Deletes a file, if it is there. */
    public void delete(Path file) {
        try {
            Files.deleteIfExists(file);
        } catch (IOException e) {
            LOG.warn("a file that is not needed any more could not be deleted", e);
        }
    }

    /** Deletes everything but these, and what is young enough to be on its way in. */
    public void deleteBut(Set<Path> kept) {
        List<Path> there;
        try (Stream<Path> files = Files.list(place)) {
            there = files.filter(Files::isRegularFile).toList();
        } catch (IOException e) {
            LOG.warn("a directory of waiting files could not be looked through", e);
            return;
        }
        there.stream().filter(f -> !kept.contains(f) && !isOnItsWay(f)).forEach(this::delete);
    }

    private boolean isOnItsWay(Path file) {
        try {
            long written = Files.getLastModifiedTime(file).toMillis();
            return written >= began && System.currentTimeMillis() - written < RECEIVING_HOURS * 3_600_000L;
        } catch (IOException e) {
            return false;
        }
    }
}
