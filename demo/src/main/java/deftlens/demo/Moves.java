package deftlens.demo;

import static deftlens.demo.Fields.calculated;
import static deftlens.demo.Fields.choice;
import static deftlens.demo.Fields.field;

import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterDefinition;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.SplittableRandom;
import java.util.function.Consumer;

/**
 * The stores moves of the demo world: items received, issued, returned, moved between places, counted and scrapped, so that
 * what is on hand after each adds up from the one before. Issues name the defect that they are for.
 */
final class Moves implements DemoRegister {

    static final int COUNT = 44_000;

    private static final long SEED = 50_417;
    private static final List<String> KINDS =
            List.of("Received", "Issued", "Transferred", "Counted", "Scrapped", "Returned");
    private static final List<String> THINGS = List.of(
            "Shackle",
            "Rope",
            "Fender",
            "Bolt",
            "Lamp",
            "Hose",
            "Filter",
            "Cable",
            "Paint",
            "Valve",
            "Gasket",
            "Chain",
            "Hinge",
            "Pump",
            "Fuse",
            "Clamp",
            "Sling",
            "Bearing",
            "Plank",
            "Ladder rung");
    private static final List<String> SIZES = List.of(
            "6 mm",
            "8 mm",
            "10 mm",
            "12 mm",
            "16 mm",
            "20 mm",
            "25 mm",
            "32 mm",
            "40 mm",
            "50 mm",
            "small",
            "large",
            "red",
            "green",
            "white",
            "stainless",
            "galvanised",
            "left",
            "right",
            "spare");

    /** An issue that comes back. */
    private record Issue(int item, long quantity, String to) {}

    private final LocalDate today;
    private final ZoneId zone;
    private final int count;
    private final int days;
    private final List<Defects.Defect> orders;
    private final SplittableRandom random = new SplittableRandom(SEED);

    /**
     * Moves up to a day in a zone.
     *
     * @param count how many
     * @param days over how many days
     * @param orders the defects that things are issued for
     */
    Moves(LocalDate today, ZoneId zone, int count, int days, List<Defects.Defect> orders) {
        this.today = today;
        this.zone = zone;
        this.count = count;
        this.days = days;
        this.orders = orders;
    }

    @Override
    public RegisterDefinition register() {
        return new RegisterDefinition(
                        "moves",
                        "Stores moves",
                        "stores move",
                        "moved_at",
                        "item",
                        true,
                        List.of(
                                field("number", "Number", FieldType.TEXT, true, true)
                                        .identifying(),
                                field("moved_at", "Moved at", FieldType.MOMENT, true, true),
                                field("item", "Item", FieldType.TEXT, true, true)
                                        .useful(),
                                choice("kind", "Kind", true, true, KINDS).useful(),
                                field("quantity", "Quantity", FieldType.NUMBER, true, true)
                                        .described("How many pieces moved, or were found in a count."),
                                field("change", "Change", FieldType.NUMBER, true, true)
                                        .described("What the move did to the number on hand; nothing for a transfer."),
                                field("on_hand_after", "On hand after", FieldType.NUMBER, true, true)
                                        .described("The pieces of this item on hand after the move."),
                                choice("from_site", "From", false, true, Staff.SITES)
                                        .useful(),
                                choice("to_site", "To", false, true, Staff.SITES)
                                        .useful(),
                                field("batch", "Batch", FieldType.TEXT, false, false),
                                field("moved_by", "Moved by", FieldType.PERSON, true, false),
                                field("for_order", "Order", FieldType.TEXT, false, false)
                                        .described("The defect that the piece was issued for.")
                                        .alsoIn("defects", "number"),
                                field("unit_cost", "Unit cost", FieldType.MONEY, false, false),
                                field("returned_at", "Returned at", FieldType.MOMENT, false, false)
                                        .described("When an issued piece came back to the stores."),
                                calculated("value", "Value", FieldType.MONEY, "quantity * unit_cost")
                                        .in("£")
                                        .described("What the pieces cost, where a unit cost is known."),
                                calculated(
                                                "store",
                                                "Store",
                                                FieldType.TEXT,
                                                "first_of(when(change < 0, from_site, to_site), \"Cooper's Basin\")")
                                        .described("The site whose number on hand the move changes; counts are made at"
                                                + " Cooper's Basin.")))
                .running("change")
                .described("Everything that goes into the stores, out of them, and between the sites.");
    }

    static String item(int number) {
        return THINGS.get(number % THINGS.size()) + " " + SIZES.get(number / THINGS.size() % SIZES.size());
    }

    @Override
    public Optional<SumsOf> sums() {
        return Optional.of(new SumsOf(List.of("kind", "from_site", "to_site"), List.of("quantity", "change")));
    }

    @Override
    public void each(Consumer<Object[]> row) {
        int items = THINGS.size() * SIZES.size();
        long[] onHand = new long[items];
        List<Staff.Member> crew = Staff.everybody().stream()
                .filter(m -> m.teams().contains("Stores and yard"))
                .toList();
        Instant begin = today.minusDays(days).atStartOfDay(zone).toInstant();
        Instant end = today.atTime(9, 0).atZone(zone).toInstant();
        double step = (double) ChronoUnit.MICROS.between(begin, end) / count;
        int order = 0;
        Map<Integer, Issue> returns = new HashMap<>();
        for (int i = 0; i < count; i++) {
            Instant at = moment(i, begin, step);
            while (order < orders.size() - 1
                    && orders.get(order + 1).reportedAt().isBefore(at)) {
                order++;
            }
            Issue back = returns.remove(i);
            int item = back != null ? back.item : Math.min(random.nextInt(items), random.nextInt(items));
            String kind = back != null ? "Returned" : kind(onHand[item]);
            String site = Staff.SITES.get(random.nextInt(Staff.SITES.size()));
            long quantity = switch (kind) {
                case "Received" -> 5 + random.nextInt(60);
                case "Issued" -> Math.min(onHand[item], 1 + random.nextInt(12));
                case "Transferred" -> random.nextInt(40) == 0 ? 0 : 1 + random.nextInt(10);
                case "Counted" ->
                    random.nextInt(3) > 0 ? onHand[item] : Math.max(0, onHand[item] + random.nextInt(-3, 3));
                case "Scrapped" -> Math.min(onHand[item], 1 + random.nextInt(3));
                default -> back.quantity;
            };
            long change = switch (kind) {
                case "Received", "Returned" -> quantity;
                case "Issued", "Scrapped" -> -quantity;
                case "Counted" -> quantity - onHand[item];
                default -> 0;
            };
            onHand[item] += change;
            // One issue in six comes back, a while later.
            int returned = i + 1 + random.nextInt(Math.max(2, count / 40));
            boolean comesBack = kind.equals("Issued")
                    && random.nextInt(6) == 0
                    && returned < count
                    && returns.putIfAbsent(returned, new Issue(item, quantity, site)) == null;
            boolean leaves = kind.equals("Issued") || kind.equals("Transferred") || kind.equals("Scrapped");
            row.accept(new Object[] {
                "M-" + (100_001 + i),
                at,
                item(item),
                kind,
                quantity,
                change,
                onHand[item],
                kind.equals("Returned") ? back.to : leaves ? "Cooper's Basin" : null,
                kind.equals("Issued") || kind.equals("Transferred")
                        ? site
                        : kind.equals("Received") || kind.equals("Returned") ? "Cooper's Basin" : null,
                kind.equals("Received") ? "B" + String.format("%05d", (i * 7L) % 90_000) : null,
                crew.get(random.nextInt(crew.size())).name(),
                kind.equals("Issued") && random.nextInt(10) > 0 && !orders.isEmpty()
                        ? orders.get(Math.max(0, order - random.nextInt(300))).number()
                        : null,
                kind.equals("Received") ? BigDecimal.valueOf(40 + (item * 137L) % 9_000 + random.nextInt(60), 2) : null,
                comesBack ? moment(returned, begin, step) : null
            });
        }
    }

    private String kind(long onHand) {
        int drawn = random.nextInt(100);
        String kind = drawn < 30
                ? "Received"
                : drawn < 79 ? "Issued" : drawn < 89 ? "Transferred" : drawn < 97 ? "Counted" : "Scrapped";
        return onHand == 0 && (kind.equals("Issued") || kind.equals("Scrapped")) ? "Received" : kind;
    }

    /** Moments in order: now and then the first of a day is at midnight and the last a microsecond before it. */
    private Instant moment(int i, Instant begin, double step) {
        Instant plain = plain(i, begin, step);
        LocalDate day = plain.atZone(zone).toLocalDate();
        boolean first =
                i > 0 && plain(i - 1, begin, step).atZone(zone).toLocalDate().isBefore(day);
        if (first && day.toEpochDay() % 5 == 0) {
            return day.atStartOfDay(zone).toInstant();
        }
        boolean last = plain(i + 1, begin, step).atZone(zone).toLocalDate().isAfter(day);
        if (last && day.toEpochDay() % 7 == 0) {
            return day.plusDays(1).atStartOfDay(zone).toInstant().minus(1, ChronoUnit.MICROS);
        }
        return plain;
    }

    private static Instant plain(int i, Instant begin, double step) {
        return begin.plus((long) (i * step), ChronoUnit.MICROS).truncatedTo(ChronoUnit.SECONDS);
    }
}
