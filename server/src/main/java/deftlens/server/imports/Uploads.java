package deftlens.server.imports;

import deftlens.server.people.SignedIn;
import deftlens.server.platform.PrivateDirectory;
import deftlens.server.platform.Problem;
import deftlens.server.platform.Upkeep;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.time.Clock;
import java.time.Duration;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
import org.springframework.beans.factory.annotation.Qualifier;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Files that were sent and wait to be brought in, for a day. They are kept in the database, in pieces, so that any server can read them; each
 * server has copies on its disk of those that it read.
 */
@Component
class Uploads {

    private static final Duration KEPT = Duration.ofDays(1);
    private static final int PART_BYTES = 1 << 20;
    private static final int PARTS_AT_ONCE = 8;
    private static final Duration SWEPT_EVERY = Duration.ofMinutes(1);

    private final PrivateDirectory directory;
    private final JdbcTemplate database;
    private final TransactionTemplate transactions;
    private final Clock clock;
    private final long mostBytes;

    Uploads(
            @Qualifier("uploadDirectory") PrivateDirectory directory,
            JdbcTemplate database,
            PlatformTransactionManager transactions,
            Clock clock,
            Upkeep upkeep,
            @Value("${deft.limits.file-bytes}") long mostBytes) {
        this.directory = directory;
        this.database = database;
        this.transactions = new TransactionTemplate(transactions);
        this.clock = clock;
        this.mostBytes = mostBytes;
        upkeep.every(SWEPT_EVERY, this::sweep);
    }

    /**
     * A file that waits to be brought in.
     *
     * @param person whose it is
     * @param highestRow the highest row of a spreadsheet
     */
    record Upload(String token, String name, boolean spreadsheet, long highestRow, long person, long bytes) {}

    /**
     * Takes a file in.
     *
     * @param wanted the token that the file is to have, a UUID, so that its sender can ask how far it is and stop it
     */
    Upload receive(String name, Optional<String> wanted, InputStream content, SignedIn who) throws IOException {
        String token = wanted.map(this::free).orElseGet(() -> UUID.randomUUID().toString());
        Path file = directory.create(token);
        try {
            copy(content, file);
            boolean spreadsheet = isZip(file);
            Upload upload = new Upload(
                    token,
                    name,
                    spreadsheet,
                    spreadsheet ? FileLimits.requireSpreadsheet(file) : 0,
                    who.id(),
                    Files.size(file));
            transactions.executeWithoutResult(s -> keep(upload, file));
            return upload;
        } catch (IOException | RuntimeException e) {
            // Also where somebody went away in the middle.
            directory.delete(file);
            throw e;
        }
    }

    private void copy(InputStream content, Path file) throws IOException {
        try (InputStream in = content;
                var out = Files.newOutputStream(file)) {
            byte[] buffer = new byte[1 << 16];
            long total = 0;
            for (int n = in.read(buffer); n >= 0; n = in.read(buffer)) {
                total += n;
                if (total > mostBytes) {
                    throw Problem.unprocessable(
                            "file-too-large",
                            "A file may have at most " + mostBytes / 1_000_000 + " MB. Split it, or attach the table.");
                }
                out.write(buffer, 0, n);
            }
        }
    }

    /** Puts a file where every server finds it. */
    private void keep(Upload upload, Path file) {
        database.update(
                "insert into upload (token, person_id, name, spreadsheet, highest_row, bytes, received_at) values (cast(? as uuid), ?, ?, ?, ?, ?, ?)",
                upload.token(),
                upload.person(),
                upload.name(),
                upload.spreadsheet(),
                upload.highestRow(),
                upload.bytes(),
                clock.instant().atOffset(ZoneOffset.UTC));
        try (InputStream in = Files.newInputStream(file)) {
            List<Object[]> parts = new ArrayList<>();
            int number = 0;
            for (byte[] part = in.readNBytes(PART_BYTES); part.length > 0; part = in.readNBytes(PART_BYTES)) {
                parts.add(new Object[] {upload.token(), number++, part});
                if (parts.size() == PARTS_AT_ONCE) {
                    put(parts);
                }
            }
            put(parts);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private void put(List<Object[]> parts) {
        database.batchUpdate("insert into upload_part (token, part, bytes) values (cast(? as uuid), ?, ?)", parts);
        parts.clear();
    }

    private String free(String wanted) {
        try {
            String token = UUID.fromString(wanted).toString();
            if (find(token).isEmpty()) {
                return token;
            }
        } catch (IllegalArgumentException e) {
            // Said below.
        }
        throw Problem.unprocessable("bad-token", "The token of a file is a UUID that no other file has.");
    }

    private static boolean isZip(Path file) throws IOException {
        try (InputStream in = Files.newInputStream(file)) {
            byte[] head = in.readNBytes(4);
            return head.length == 4 && head[0] == 'P' && head[1] == 'K' && head[2] == 3 && head[3] == 4;
        }
    }

    /** A file of one's own. */
    Upload get(String token, SignedIn who) {
        return find(token).filter(u -> u.person() == who.id()).orElseThrow(Uploads::notThere);
    }

    private Optional<Upload> find(String token) {
        try {
            UUID.fromString(token);
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
        return database
                .query(
                        "select token, name, spreadsheet, highest_row, person_id, bytes from upload where token = cast(? as uuid)",
                        (row, n) -> new Upload(
                                row.getString(1),
                                row.getString(2),
                                row.getBoolean(3),
                                row.getLong(4),
                                row.getLong(5),
                                row.getLong(6)),
                        token)
                .stream()
                .findFirst();
    }

    /** Where the file is on this server; it is fetched where it came in at another one. */
    Path file(Upload upload) throws IOException {
        Path file = directory.place().resolve(upload.token());
        if (Files.exists(file)) {
            return file;
        }
        // It has its name only when it is whole, whoever else fetches it at the same time.
        Path fetched = directory.create(UUID.randomUUID().toString());
        try {
            fetch(upload, fetched);
            return Files.move(fetched, file, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
        } catch (IOException | RuntimeException e) {
            directory.delete(fetched);
            throw e;
        }
    }

    private void fetch(Upload upload, Path into) throws IOException {
        try (var out = Files.newOutputStream(into)) {
            byte[] part;
            for (int number = 0; (part = part(upload.token(), number)) != null; number++) {
                out.write(part);
            }
        }
        if (Files.size(into) != upload.bytes()) {
            // It was forgotten meanwhile.
            throw notThere();
        }
    }

    private static Problem notThere() {
        return Problem.notFound("This file (files are kept for a day)");
    }

    private byte[] part(String token, int number) {
        return database
                .query(
                        "select bytes from upload_part where token = cast(? as uuid) and part = ?",
                        (row, n) -> row.getBytes(1),
                        token,
                        number)
                .stream()
                .findFirst()
                .orElse(null);
    }

    /** Forgets a file; if it is being read, that stops. */
    void forget(Upload upload) {
        database.update("delete from upload where token = cast(? as uuid)", upload.token());
        directory.delete(directory.place().resolve(upload.token()));
    }

    // ------------------------------------------------------------------ how far the reading of a file is

    /** A reading begins. */
    void beginLook(Upload upload) {
        database.update(
                "update upload set looked = 0, look_stopped = false where token = cast(? as uuid)", upload.token());
    }

    /**
     * Notes how far a reading is.
     *
     * @param share from 0 to 1
     * @return whether it is still wanted
     */
    boolean looking(Upload upload, double share) {
        return database
                .queryForList(
                        "update upload set looked = ? where token = cast(? as uuid) returning not look_stopped",
                        Boolean.class,
                        share,
                        upload.token())
                .stream()
                .anyMatch(Boolean::booleanValue);
    }

    /** Stops a reading, on whatever server it goes on. */
    void stopLook(Upload upload) {
        database.update("update upload set look_stopped = true where token = cast(? as uuid)", upload.token());
    }

    /** How far the reading is, from 0 to 1. */
    double looked(Upload upload) {
        return database
                .queryForList("select looked from upload where token = cast(? as uuid)", Double.class, upload.token())
                .stream()
                .findFirst()
                .orElse(0.0);
    }

    // ------------------------------------------------------------------ old files

    /** Forgets what waited too long. */
    void forgetOld() {
        database.update(
                "delete from upload where received_at < ?",
                clock.instant().minus(KEPT).atOffset(ZoneOffset.UTC));
    }

    /** Takes the files of this server away that nobody waits for any more. */
    void sweep() {
        Set<Path> waiting = database.queryForList("select cast(token as text) from upload", String.class).stream()
                .map(directory.place()::resolve)
                .collect(Collectors.toSet());
        directory.deleteBut(waiting);
    }
}
