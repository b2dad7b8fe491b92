package deftlens.demo;

import static deftlens.demo.Fields.choice;
import static deftlens.demo.Fields.field;

import deftlens.core.field.Band;
import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.TransactionRules;
import java.math.BigDecimal;
import java.math.RoundingMode;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.time.temporal.TemporalAdjusters;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.SplittableRandom;
import java.util.function.Consumer;

/**
 * The dues ledger of the demo world. Every stay raises a bill and, mostly, a payment; the stores, the payroll and people by
 * hand add entries of their own. The entries of one transaction add up to zero.
 */
final class Dues implements DemoRegister {

    private static final long SEED = 60_417;
    private static final int DAYS = 1_095;
    private static final BigDecimal TAX = new BigDecimal("0.20");
    private static final String DEBTORS = "1100 Berth holders";
    private static final String BANK = "1200 Bank";
    private static final String STOCK = "1400 Stores stock";
    private static final String OWED_TAX = "2200 Tax owed";
    private static final String INCOME = "4000 Berth dues";
    private static final String REPAIRS = "5100 Repairs";
    private static final String WAGES = "5200 Wages";
    private static final String OFFICE = "5300 Office";

    /** Accounts and their classes, in the order of the books. */
    private static final Map<String, String> CLASSES = Map.of(
            DEBTORS,
            "Assets",
            BANK,
            "Assets",
            STOCK,
            "Assets",
            OWED_TAX,
            "Liabilities",
            INCOME,
            "Income",
            REPAIRS,
            "Costs",
            WAGES,
            "Costs",
            OFFICE,
            "Costs");

    private static final String BY_HAND = "By hand";
    private static final List<String> SOURCES = List.of("Stay", "Payment", "Stores", "Payroll", BY_HAND);
    private static final List<String> CENTRES = List.of("Quays", "Yard", "Office", "Locks");
    private static final List<String> MEMOS = List.of(
            "Correction of last month",
            "Stamps",
            "Rounding",
            "Agreed with \"Ostrey\"",
            "Moved from 5300",
            "Dépannage électrique",
            "Coffee; mugs",
            "Refund 00417");

    private final LocalDate today;
    private final ZoneId zone;
    private final List<Stays.Stay> stays;
    private final int others;
    private final int days;
    private final SplittableRandom random = new SplittableRandom(SEED);

    /** A transaction before it has its number. */
    private record Transaction(
            Instant at,
            LocalDate value,
            String source,
            String reference,
            String site,
            String by,
            String memo,
            List<Line> lines) {}

    private record Line(String account, BigDecimal amount, String centre) {}

    /**
     * A ledger up to a day in a zone.
     *
     * @param stays the stays that are billed
     * @param others how many transactions there are besides, of the stores, the payroll and by hand
     * @param days over how many days
     */
    Dues(LocalDate today, ZoneId zone, List<Stays.Stay> stays, int others, int days) {
        this.today = today;
        this.zone = zone;
        this.stays = stays;
        this.others = others;
        this.days = days;
    }

    /** The ledger of the demo world at its usual size. */
    static Dues usual(LocalDate today, ZoneId zone, List<Stays.Stay> stays) {
        return new Dues(today, zone, stays, 5_200, DAYS);
    }

    @Override
    public RegisterDefinition register() {
        return new RegisterDefinition(
                        "dues",
                        "Dues ledger",
                        "ledger entry",
                        "posted_at",
                        "entry",
                        true,
                        List.of(
                                field("entry", "Entry", FieldType.TEXT, true, true)
                                        .identifying(),
                                field("posted_at", "Posted at", FieldType.MOMENT, true, true),
                                field("value_date", "Value date", FieldType.DATE, true, true)
                                        .described("The day that the entry counts for.")
                                        .correctable(),
                                choice(
                                                "account",
                                                "Account",
                                                true,
                                                true,
                                                CLASSES.keySet().stream()
                                                        .sorted()
                                                        .toList())
                                        .useful()
                                        .correctable(),
                                choice(
                                        "account_class",
                                        "Class",
                                        true,
                                        false,
                                        List.of("Assets", "Liabilities", "Income", "Costs")),
                                field("amount", "Amount", FieldType.MONEY, true, true)
                                        .described("Debits are positive, credits negative.")
                                        .in("£")
                                        .withBands(List.of(
                                                Band.of(
                                                        "Credit",
                                                        new Band.Numbers(
                                                                Optional.empty(),
                                                                false,
                                                                Optional.of(BigDecimal.ZERO),
                                                                false)),
                                                Band.of("Small debit", Band.Numbers.from(0, 100)),
                                                Band.of("Debit", Band.Numbers.from(100, 1_000)),
                                                Band.of(
                                                        "Large debit",
                                                        new Band.Numbers(
                                                                Optional.of(BigDecimal.valueOf(1_000)),
                                                                true,
                                                                Optional.empty(),
                                                                false)))),
                                choice("site", "Site", false, true, Staff.SITES)
                                        .useful()
                                        .correctable(),
                                choice("cost_centre", "Cost centre", true, false, CENTRES)
                                        .correctable(),
                                choice("source", "Source", true, true, SOURCES).useful(),
                                field("reference", "Reference", FieldType.TEXT, false, true)
                                        .described("The number of the stay that was billed or paid.")
                                        .alsoIn("stays", "number"),
                                field("transaction", "Transaction", FieldType.TEXT, true, false)
                                        .described("The entries of one transaction add up to zero.")
                                        .alsoIn("dues", "transaction"),
                                field("entered_by", "Entered by", FieldType.PERSON, true, false),
                                field("memo", "Memo", FieldType.TEXT, false, false)
                                        .correctable()))
                .running("amount")
                .transactions(new TransactionRules(
                        new TransactionRules.Numbered("transaction", "T-"),
                        Optional.of(new TransactionRules.Numbered("entry", "E-")),
                        "amount",
                        List.of("posted_at", "value_date", "reference"),
                        List.of("account", "site", "cost_centre", "memo"),
                        Optional.of(new TransactionRules.Mark("source", BY_HAND)),
                        Optional.of("entered_by"),
                        List.of(new TransactionRules.Along("account_class", "account"))))
                .described("Debits and credits, by transaction.");
    }

    @Override
    public Optional<SumsOf> sums() {
        return Optional.of(new SumsOf(List.of("account", "source"), List.of("amount")));
    }

    @Override
    public void each(Consumer<Object[]> row) {
        List<Transaction> all = new ArrayList<>();
        stays.forEach(s -> billed(s, all));
        for (int i = 0; i < others; i++) {
            all.add(other(i));
        }
        all.sort(Comparator.comparing(Transaction::at));
        int entry = 200_001;
        int number = 50_001;
        for (Transaction t : all) {
            for (Line line : t.lines) {
                row.accept(new Object[] {
                    "E-" + entry++,
                    t.at,
                    t.value,
                    line.account,
                    CLASSES.get(line.account),
                    line.amount,
                    t.site,
                    line.centre,
                    t.source,
                    t.reference,
                    "T-" + number,
                    t.by,
                    t.memo
                });
            }
            number++;
        }
    }

    /** A stay that has ended is billed the next morning, by its length and days, and paid within a season. */
    private void billed(Stays.Stay stay, List<Transaction> into) {
        Instant now = today.atTime(9, 0).atZone(zone).toInstant();
        if (stay.leaves() == null || stay.leaves().isAfter(now)) {
            return;
        }
        long nights = Math.max(1, ChronoUnit.DAYS.between(stay.arrives(), stay.leaves()));
        BigDecimal net = stay.length()
                .multiply(BigDecimal.valueOf(nights))
                .multiply(new BigDecimal("1.85"))
                .setScale(2, RoundingMode.HALF_UP);
        BigDecimal tax = net.multiply(TAX).setScale(2, RoundingMode.HALF_UP);
        BigDecimal gross = net.add(tax);
        LocalDate left = stay.leaves().atZone(zone).toLocalDate();
        Instant posted = at(left.plusDays(1), 8 * 60 + random.nextInt(120), now);
        into.add(new Transaction(
                posted,
                left,
                "Stay",
                stay.number(),
                stay.site(),
                "tomas.rell",
                null,
                List.of(
                        new Line(DEBTORS, gross, "Quays"),
                        new Line(INCOME, net.negate(), "Quays"),
                        new Line(OWED_TAX, tax.negate(), "Quays"))));
        LocalDate paid = left.plusDays(4 + random.nextInt(60));
        if (paid.isBefore(today) && random.nextInt(25) > 0) {
            into.add(new Transaction(
                    at(paid, 9 * 60 + random.nextInt(400), now),
                    paid,
                    "Payment",
                    stay.number(),
                    stay.site(),
                    "tomas.rell",
                    null,
                    List.of(new Line(BANK, gross, "Office"), new Line(DEBTORS, gross.negate(), "Quays"))));
        }
    }

    private Transaction other(int i) {
        Instant now = today.atTime(9, 0).atZone(zone).toInstant();
        LocalDate day = today.minusDays(days).plusDays((long) ((i + random.nextDouble()) / others * (days + 1)));
        String site = random.nextInt(9) == 0 ? null : Staff.SITES.get(random.nextInt(Staff.SITES.size()));
        String centre = CENTRES.get(random.nextInt(CENTRES.size()));
        BigDecimal amount = BigDecimal.valueOf(200 + random.nextInt(90_000), 2);
        // Some are posted at midnight, some in the last microsecond of a day.
        Instant at = i % 41 == 0
                ? day.atStartOfDay(zone).toInstant()
                : i % 41 == 1
                        ? day.plusDays(1).atStartOfDay(zone).toInstant().minus(1, ChronoUnit.MICROS)
                        : at(day, 7 * 60 + random.nextInt(700), now);
        at = at.isAfter(now) ? now : at;
        return switch (i % 5) {
            case 0, 1, 2 ->
                new Transaction(
                        at,
                        day,
                        "Stores",
                        null,
                        site,
                        "wren.halloway",
                        null,
                        List.of(new Line(REPAIRS, amount, centre), new Line(STOCK, amount.negate(), centre)));
            case 3 ->
                new Transaction(
                        at,
                        day.with(TemporalAdjusters.lastDayOfMonth()),
                        "Payroll",
                        null,
                        site,
                        "tomas.rell",
                        null,
                        List.of(
                                new Line(WAGES, amount.add(amount), centre),
                                new Line(BANK, amount.add(amount).negate(), "Office")));
            default -> {
                BigDecimal corrected = random.nextInt(60) == 0 ? BigDecimal.ZERO.setScale(2) : amount;
                yield new Transaction(
                        at,
                        day.minusDays(random.nextInt(20)),
                        BY_HAND,
                        null,
                        site,
                        "tomas.rell",
                        MEMOS.get(random.nextInt(MEMOS.size())),
                        List.of(new Line(OFFICE, corrected, centre), new Line(DEBTORS, corrected.negate(), centre)));
            }
        };
    }

    private Instant at(LocalDate day, int minute, Instant latest) {
        Instant at =
                day.atTime(LocalTime.ofSecondOfDay(minute * 60L)).atZone(zone).toInstant();
        return at.isAfter(latest) ? latest : at;
    }
}
