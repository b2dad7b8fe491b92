package deftlens.server.sums;

import deftlens.core.field.Field;
import deftlens.core.sql.KeptSums;
import deftlens.server.organisation.OrganisationService;
import deftlens.server.organisation.ZoneChanged;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.EpochCache;
import deftlens.server.platform.Problem;
import deftlens.server.question.QueryRunner;
import deftlens.server.question.Question;
import deftlens.server.registers.FieldOrigin;
import deftlens.server.registers.Origin;
import deftlens.server.registers.RecordsTableChanged;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterChanged;
import deftlens.server.registers.RegisterForReader;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.function.Predicate;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.hibernate.exception.SQLGrammarException;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/**
 * Sums that are kept of registers: an administrator says which fields they are told apart by and which numbers are added up, and totals
 * that need nothing else are made of them. They are counted anew where the register or the organisation's zone changes.
 */
@Service
public class SumsService {

    private static final String SCHEMA = "kept";
    private static final int FOLDED_AT_ONCE = 20_000;

    private final SumsStore store;
    private final RegisterCatalogue registers;
    private final OrganisationService organisation;
    private final EpochCache remembered;
    private final QueryRunner runner;

    SumsService(
            SumsStore store,
            RegisterCatalogue registers,
            OrganisationService organisation,
            EpochCache remembered,
            QueryRunner runner) {
        this.store = store;
        this.registers = registers;
        this.organisation = organisation;
        this.remembered = remembered;
        this.runner = runner;
    }

    /** What is remembered of a register. */
    private record SumsKey(String register) {}

    /** What is remembered where nothing is kept. */
    private record Remembered(Optional<KeptSums> sums) {}

    /**
     * The sums that a question's totals may be made of: those of a register of which they are kept, whose reader sees all records and asks
     * for all that match.
     */
    public Optional<KeptSums> of(Question question) {
        RegisterForReader described = question.registerForReader();
        String key = described.register().key();
        if (!described.can(Origin.Capability.COUNTS)
                || question.recordsAt().isPresent()
                || question.shape().taken().isPresent()
                || !registers.limits(key, question.who()).isEmpty()) {
            return Optional.empty();
        }
        return remembered
                .get(
                        new SumsKey(key),
                        () -> new Remembered(registers
                                .whole(key)
                                .flatMap(whole -> store.find(whole.id()).flatMap(kept -> sums(whole, kept)))))
                .sums();
    }

    /** What is read of kept sums; nothing where they were counted anew at this moment, and are other ones than this request knows. */
    public <T> Optional<T> tried(Supplier<T> read) {
        try {
            // A statement that fails ends the transaction that it is in.
            return Optional.of(runner.apart(read));
        } catch (SQLGrammarException e) {
            return Optional.empty();
        }
    }

    /** The sums as they are kept; nothing where a field of theirs is not there any more. */
    private static Optional<KeptSums> sums(RegisterForReader whole, SumsStore.Kept kept) {
        Predicate<String> isThere = key -> column(whole, key).isPresent();
        if (!Stream.concat(Stream.of(kept.main()), Stream.concat(kept.keys().stream(), kept.amounts().stream()))
                .allMatch(isThere)) {
            return Optional.empty();
        }
        return Optional.of(new KeptSums(
                whole.register(),
                column(whole, kept.main()).orElseThrow(),
                ZoneId.of(kept.zone()),
                kept.keys().stream().map(k -> column(whole, k).orElseThrow()).toList(),
                kept.amounts().stream().map(k -> column(whole, k).orElseThrow()).toList(),
                table(whole)));
    }

    private static KeptSums.Table table(RegisterForReader whole) {
        return new KeptSums.Table(SCHEMA, whole.register().key());
    }

    /** A field that stands in a column of the register's table. */
    private static Optional<Field> column(RegisterForReader whole, String key) {
        return whole.register()
                .field(key)
                .filter(f -> whole.notes().get(f.key()).origin() == FieldOrigin.COLUMN);
    }

    /**
     * What is kept of a register, and what could be.
     *
     * @param keys the keys of the fields that sums are told apart by, at most four
     * @param amounts the keys of the numbers that are added up, at most four
     * @param possibleKeys the fields that can tell sums apart
     * @param possibleAmounts the numbers that can be added up
     * @param kept whether sums are kept
     * @param rows about how many there are: one for each day and combination of values; 0 where none are kept
     * @param records about how many records they are of; 0 where the database has not looked yet
     */
    public record Sums(
            boolean kept,
            long rows,
            long records,
            List<String> keys,
            List<String> amounts,
            List<String> possibleKeys,
            List<String> possibleAmounts) {}

    /** What is kept of a register, for administrators. */
    @Transactional(readOnly = true)
    public Sums described(String key, SignedIn who) {
        RegisterForReader whole = open(key, who);
        Optional<SumsStore.Kept> kept = store.find(whole.id());
        return new Sums(
                kept.isPresent(),
                kept.isPresent() ? store.rows(table(whole).base()) : 0,
                store.rows(whole.register().table()),
                kept.map(SumsStore.Kept::keys).orElse(List.of()),
                kept.map(SumsStore.Kept::amounts).orElse(List.of()),
                columns(whole, KeptSums::isKey),
                columns(whole, f -> f.type().isNumeric()));
    }

    private static List<String> columns(RegisterForReader whole, Predicate<Field> which) {
        return whole.register().stored().stream()
                .filter(f -> column(whole, f.key()).isPresent())
                .filter(which)
                .map(Field::key)
                .toList();
    }

    private RegisterForReader open(String key, SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator says which sums are kept.");
        }
        return registers.whole(key).orElseThrow(() -> Problem.notFound("The register “" + key + "”"));
    }

    /**
     * Keeps sums of a register from now on, counted anew.
     *
     * @throws Problem where a field is not there or cannot be used, or the register has no main date
     */
    @Transactional
    public Sums keep(String key, List<String> keys, List<String> amounts, SignedIn who) {
        RegisterForReader whole = open(key, who);
        if (!whole.can(Origin.Capability.COUNTS)) {
            throw Problem.unprocessable("no-sums", "Sums are kept of registers whose records are written here alone.");
        }
        Field main = whole.main()
                .orElseThrow(() -> Problem.unprocessable(
                        "no-sums", "Sums are kept by the days of the main date; choose one for the register first."));
        Stream.concat(keys.stream(), amounts.stream())
                .filter(k -> column(whole, k).isEmpty())
                .findFirst()
                .ifPresent(k -> {
                    throw Problem.unprocessable(
                            "bad-sums",
                            "“" + k + "” stands in no column of "
                                    + whole.register().label() + ".");
                });
        SumsStore.Kept kept = new SumsStore.Kept(
                keys.stream().distinct().toList(),
                amounts.stream().distinct().toList(),
                main.key(),
                organisation.zone().getId());
        KeptSums sums;
        try {
            sums = sums(whole, kept).orElseThrow();
        } catch (IllegalArgumentException e) {
            throw Problem.unprocessable("bad-sums", "These sums cannot be kept: " + e.getMessage() + ".");
        }
        store.execute(sums.keep());
        store.put(whole.id(), key, kept);
        return described(key, who);
    }

    /** Keeps no sums of a register any more. */
    @Transactional
    public void drop(String key, SignedIn who) {
        drop(open(key, who));
    }

    private void drop(RegisterForReader whole) {
        store.execute(KeptSums.drop(whole.register(), table(whole)));
        store.remove(whole.id());
    }

    // ------------------------------------------------------------------ what changes

    @EventListener
    void changed(RecordsTableChanged change) {
        registers.whole(change.register()).ifPresent(this::renew);
    }

    @EventListener
    void changed(RegisterChanged change) {
        registers
                .whole(change.register())
                .ifPresent(whole -> store.find(whole.id()).ifPresent(kept -> {
                    boolean stays = sums(whole, kept).isPresent()
                            && whole.main().map(Field::key).equals(Optional.of(kept.main()));
                    if (!stays) {
                        renew(whole);
                    }
                }));
    }

    @EventListener
    void changed(ZoneChanged change) {
        for (String key : store.registers()) {
            registers.whole(key).ifPresent(this::renew);
        }
    }

    /** Counts anew, without the fields that are not there any more. */
    private void renew(RegisterForReader whole) {
        store.find(whole.id()).ifPresent(kept -> {
            Predicate<String> isKey =
                    k -> column(whole, k).filter(KeptSums::isKey).isPresent();
            Predicate<String> isAmount =
                    k -> column(whole, k).filter(f -> f.type().isNumeric()).isPresent();
            Optional<Field> main = whole.main();
            if (main.isEmpty()) {
                drop(whole);
                return;
            }
            SumsStore.Kept now = new SumsStore.Kept(
                    kept.keys().stream().filter(isKey).toList(),
                    kept.amounts().stream().filter(isAmount).toList(),
                    main.get().key(),
                    organisation.zone().getId());
            store.execute(sums(whole, now).orElseThrow().keep());
            store.put(whole.id(), whole.register().key(), now);
        });
    }

    /** Adds changes to the base, some at a time, so that reading stays quick however many there are. */
    @Transactional
    void fold() {
        for (String key : store.registers()) {
            registers
                    .whole(key)
                    .flatMap(whole -> store.find(whole.id()).flatMap(kept -> sums(whole, kept)))
                    .ifPresent(sums -> store.fold(sums, FOLDED_AT_ONCE));
        }
    }
}
