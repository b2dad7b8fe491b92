package deftlens.server.closing;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.server.organisation.OrganisationService;
import deftlens.server.people.PeopleService;
import deftlens.server.people.Role;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.VisibleText;
import deftlens.server.registers.Origin;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.trail.Trail;
import java.sql.SQLException;
import java.time.Clock;
import java.time.Instant;
import java.time.LocalDate;
import java.time.format.DateTimeFormatter;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import org.postgresql.util.PSQLException;
import org.springframework.dao.DataAccessException;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/**
 * The closed periods of registers that are kept here. No record whose main date lies on the last closed day or before it is made, changed or
 * taken away; days are those of the organisation's zone, and records without a main date are in no period. The database refuses, so that
 * every way in is guarded, and this says in words what was refused.
 */
@Service
public class ClosedPeriods {

    /** The database's own code for what a closed period refuses. */
    private static final String REFUSED = "DL001";

    /** PostgreSQL's code for a lock that was not had in time. */
    private static final String NOT_IN_TIME = "55P03";

    private static final DateTimeFormatter DAY = DateTimeFormatter.ofPattern("d MMM uuuu", Locale.ENGLISH);
    private static final int MOST_LETTERS = 500;
    private static final int MOST_NAMED = 3;
    private static final String ANYBODY = "An administrator can reopen it.";

    private final ClosedPeriodStore store;
    private final RegisterCatalogue registers;
    private final PeopleService people;
    private final OrganisationService organisation;
    private final Trail trail;
    private final Clock clock;

    ClosedPeriods(
            ClosedPeriodStore store,
            RegisterCatalogue registers,
            PeopleService people,
            OrganisationService organisation,
            Trail trail,
            Clock clock) {
        this.store = store;
        this.registers = registers;
        this.people = people;
        this.organisation = organisation;
        this.trail = trail;
        this.clock = clock;
    }

    /**
     * One closing, or reopening.
     *
     * @param upTo the last closed day from then on; absent where everything was reopened
     * @param who the full name of whoever did it
     */
    public record Closing(Optional<LocalDate> upTo, String who, Instant at, String reason) {}

    /**
     * What is closed of a register.
     *
     * @param upTo the last closed day; absent where all is open
     * @param mayReopen the full names of those who may close and reopen, some of them
     * @param history what was closed and reopened, the latest first
     */
    public record Closed(Optional<LocalDate> upTo, List<String> mayReopen, List<Closing> history) {}

    /** What is closed of a register that the person sees. */
    @Transactional(readOnly = true)
    public Closed of(String key, SignedIn who) {
        RegisterForReader described = registers.get(key, who);
        Map<Long, String> names = people.everyone().stream()
                .collect(Collectors.toMap(PeopleService.Profile::id, PeopleService.Profile::fullName));
        return new Closed(
                described.closedUpTo(),
                mayReopen(),
                store.of(described.id(), id -> names.getOrDefault(id, "Somebody who is not here any more")));
    }

    /**
     * Closes a register up to a day, or reopens it.
     *
     * @param upTo the last closed day from now on, not after today; absent to reopen everything
     * @param was the last closed day as the person saw it
     * @throws Problem {@code changed-meanwhile} where it is another by now; {@code bad-value} where a day or a reason does not do;
     *     {@code being-written} where others who write do not end within some seconds; {@code no-period} where the register has no main date, or its records are not kept here
     */
    @Transactional
    public Closed close(String key, Optional<LocalDate> upTo, Optional<LocalDate> was, String reason, SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator closes periods and reopens them.");
        }
        RegisterForReader seen = registers.get(key, who);
        if (!seen.can(Origin.Capability.RECORDS) || seen.main().isEmpty()) {
            throw Problem.unprocessable(
                    "no-period",
                    "Periods are closed of registers that are kept here and have a main date. Choose one under Names and order.");
        }
        LocalDate today = LocalDate.ofInstant(clock.instant(), organisation.zone());
        if (upTo.filter(d -> d.isAfter(today)).isPresent()) {
            throw Problem.unprocessable("bad-value", "A period is closed up to today at the latest.")
                    .at("upTo");
        }
        String why = reason.strip();
        if (!VisibleText.isVisible(why) || why.length() > MOST_LETTERS) {
            throw Problem.unprocessable("bad-value", "Say why, in at most " + MOST_LETTERS + " characters.")
                    .at("reason");
        }
        // Whoever is writing ends first, and who closes at the same time comes after this one.
        try {
            store.guard(seen.table().name(), seen.id(), upTo.isPresent());
        } catch (DataAccessException e) {
            if (behind(e, NOT_IN_TIME).isEmpty()) {
                throw e;
            }
            throw new Problem(
                    HttpStatus.CONFLICT,
                    "being-written",
                    "Many " + seen.recordsLabel()
                            + " are being written just now, as by a file. Nothing was saved; try again when that is done.");
        }
        Optional<LocalDate> now = registers.closeUpTo(seen.register().key(), upTo);
        if (!now.equals(was)) {
            throw new Problem(
                            HttpStatus.CONFLICT,
                            "changed-meanwhile",
                            "Somebody else closed or reopened " + seen.recordsLabel()
                                    + " meanwhile. Nothing of yours was saved; look at theirs first.")
                    .with("upTo", now.map(LocalDate::toString).orElse(null));
        }
        if (now.equals(upTo)) {
            throw Problem.unprocessable("nothing-changed", "That is how it is already.");
        }
        store.note(seen.id(), upTo, who.id(), clock.instant(), why);
        trail.write(
                Optional.of(who.id()),
                "register",
                seen.id(),
                upTo.isEmpty() || now.isPresent() && upTo.get().isBefore(now.get())
                        ? "period reopened"
                        : "period closed",
                told(now, Optional.empty()),
                told(upTo, Optional.of(why)));
        List<Closing> history = of(key, who).history();
        return new Closed(upTo, mayReopen(), history);
    }

    private static Map<String, Object> told(Optional<LocalDate> upTo, Optional<String> why) {
        Map<String, Object> told = new HashMap<>();
        told.put("closed up to", upTo.map(LocalDate::toString).orElse(null));
        why.ifPresent(w -> told.put("reason", w));
        return told;
    }

    /**
     * Does what writes records, and says what a closed period refused of it.
     *
     * @throws Problem {@code closed-period}, with the member {@code closedUpTo}
     */
    public <T> T guarded(RegisterForReader register, Supplier<T> writing) {
        // Once the database has refused, it answers nothing more in this transaction.
        String mayReopen = register.closedUpTo().isPresent() ? whoMayReopen() : ANYBODY;
        try {
            return writing.get();
        } catch (RuntimeException e) {
            Optional<Long> refused = refused(e);
            if (refused.isEmpty()) {
                throw e;
            }
            throw refusal(register, refused.get(), mayReopen);
        }
    }

    /** How many records a closed period refused; 0 for all that there are. */
    private static Optional<Long> refused(Throwable e) {
        return behind(e, REFUSED)
                .map(sql -> sql instanceof PSQLException own && own.getServerErrorMessage() != null
                        ? Long.parseLong(own.getServerErrorMessage().getDetail())
                        : 0L);
    }

    /** What the database said that has this SQLSTATE, among what lies behind a failure. */
    private static Optional<SQLException> behind(Throwable e, String state) {
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            if (cause instanceof SQLException sql && state.equals(sql.getSQLState())) {
                return Optional.of(sql);
            }
        }
        return Optional.empty();
    }

    private static Problem refusal(RegisterForReader register, long records, String mayReopen) {
        Optional<LocalDate> upTo = register.closedUpTo();
        String what = records == 0
                ? "The " + register.recordsLabel() + " are"
                : records == 1
                        ? "This " + register.recordLabel() + " is"
                        : records + " of these " + register.recordsLabel() + " are";
        return new Problem(
                        HttpStatus.CONFLICT,
                        "closed-period",
                        what + " in a closed period, which goes " + until(upTo) + ". Nothing was written. " + mayReopen)
                .with("closedUpTo", upTo.map(LocalDate::toString).orElse(null));
    }

    /**
     * Where the closed period of a register ends.
     *
     * @param main the register's main date
     * @param open the first day that is open, a {@link LocalDate} or the {@link Instant} it begins with, as the main date is
     * @param reason why a record before it is not written, in a sentence or two
     */
    public record Until(Field main, Object open, String reason) {

        /** Whether a value of the main date lies in the closed period. */
        public boolean isClosed(Object value) {
            return switch (value) {
                case LocalDate day -> day.isBefore((LocalDate) open);
                case Instant moment -> moment.isBefore((Instant) open);
                case null, default -> false;
            };
        }
    }

    /** Where the closed period of a register ends, if it has one; for those who refuse records one by one beforehand. */
    public Optional<Until> until(RegisterForReader register) {
        return register.closedUpTo().map(upTo -> {
            // Also where the date is hidden from whoever writes.
            Field main = registers
                    .whole(register.register().key())
                    .flatMap(RegisterForReader::main)
                    .orElseThrow();
            LocalDate open = upTo.plusDays(1);
            return new Until(
                    main,
                    main.type() == FieldType.DATE
                            ? open
                            : open.atStartOfDay(organisation.zone()).toInstant(),
                    "It lies in the closed period, which goes " + until(Optional.of(upTo)) + ". " + whoMayReopen());
        });
    }

    private static String until(Optional<LocalDate> upTo) {
        // Closed since the request began, the day is not known yet.
        return upTo.map(d -> "up to " + DAY.format(d)).orElse("further by now");
    }

    private String whoMayReopen() {
        List<String> names = mayReopen();
        return names.isEmpty() ? ANYBODY : String.join(" or ", names) + " can reopen it, as administrator.";
    }

    private List<String> mayReopen() {
        return people.everyone().stream()
                .filter(p -> p.active() && p.role() == Role.ADMINISTRATOR)
                .map(PeopleService.Profile::fullName)
                .sorted()
                .limit(MOST_NAMED)
                .toList();
    }
}
