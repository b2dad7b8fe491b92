package deftlens.core.sql;

import deftlens.core.condition.Bound;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Measure;
import deftlens.core.field.Register;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * Sums that the database keeps while records are written: for each day and each combination of some keys how many records there are,
 * and of some numbers how many values, what of them is above zero, and what is below. Totals of a whole register, or of what can be told
 * by its days and keys alone, are made of these instead of all its records, and come out the same.
 *
 * <p>They are kept as a base and the changes since, both in tables of their own. Whoever writes records adds to the changes in the same
 * transaction, so that writers never wait for each other and readers see neither more nor less than the records; {@link #fold} moves
 * changes to the base.
 *
 * <p>Worked example: ledger entries by posting date and account with the sum of their amounts. {@code account is "1200" and posted in
 * this year}, by month, is told from some three hundred kept rows however many entries there are; {@code amount > 100} is not, and
 * neither are hours.
 *
 * @param register whose records are counted
 * @param date the date or moment whose local days they are told apart by
 * @param zone what makes a moment's local day; of no account for a date
 * @param keys fields whose values they are told apart by
 * @param amounts the numbers that are added up
 * @param table the table of the base, as SQL; the changes are in a table of that name with a plus behind it
 */
public record KeptSums(Register register, Field date, ZoneId zone, List<Field> keys, List<Field> amounts, Table table) {

    /** The most keys, and the most numbers. */
    public static final int MOST = 4;

    private static final String DAY = "\"@day\"";

    /** A table in a schema. */
    public record Table(String schema, String name) {

        /** The table, as SQL. */
        public String base() {
            return Sql.identifier(schema) + "." + Sql.identifier(name);
        }

        private String changes() {
            return Sql.identifier(schema) + "." + Sql.identifier(name + "+");
        }
    }

    /**
     * Sums to be kept.
     *
     * @throws IllegalArgumentException where a field cannot be a key or cannot be added up, or there are too many
     */
    public KeptSums {
        keys = List.copyOf(keys);
        amounts = List.copyOf(amounts);
        if (!date.type().isTemporal()) {
            throw new IllegalArgumentException(date.label() + " has no days");
        }
        if (keys.size() > MOST || amounts.size() > MOST) {
            throw new IllegalArgumentException("at most " + MOST + " keys and " + MOST + " numbers are kept");
        }
        keys.stream().filter(k -> !isKey(k)).findFirst().ifPresent(k -> {
            throw new IllegalArgumentException(k.label() + " cannot tell sums apart");
        });
        amounts.stream().filter(a -> !a.type().isNumeric()).findFirst().ifPresent(a -> {
            throw new IllegalArgumentException(a.label() + " is no number");
        });
    }

    /** Whether sums can be told apart by the values of a field. */
    public static boolean isKey(Field field) {
        return switch (field.type()) {
            case TEXT, CHOICE, PERSON, YES_NO -> true;
            case NUMBER, MONEY, DURATION, DATE, MOMENT, TIME, TAGS, SPAN -> false;
        };
    }

    // ------------------------------------------------------------------ keeping

    /**
     * The statements that count everything anew and have it kept from now on, to be run in one transaction that nobody writes records
     * beside. What was kept before goes.
     */
    public List<String> keep() {
        List<String> statements = new ArrayList<>();
        statements.add("lock table " + register.table() + " in share row exclusive mode");
        statements.addAll(drop());
        statements.add("create table " + table.base() + " as select " + contributed(1) + " from " + register.table()
                + " r group by " + grouped());
        statements.add("create unique index on " + table.base() + " (" + columns() + ") nulls not distinct");
        statements.add("create table " + table.changes() + " (like " + table.base() + ")");
        statements.add("create function " + table.base() + "() returns trigger language plpgsql as $body$ begin "
                + "if tg_op = 'INSERT' then insert into " + table.changes() + " select " + contributed(1)
                + " from new_rows r group by " + grouped() + "; "
                + "elsif tg_op = 'DELETE' then insert into " + table.changes() + " select " + contributed(-1)
                + " from old_rows r group by " + grouped() + "; "
                + "elsif tg_op = 'UPDATE' then insert into " + table.changes() + " select * from (select " + columns()
                + ", " + AddedUp.again(addedUp().columns()) + " from (select " + contributed(1)
                + " from new_rows r group by " + grouped()
                + " union all select " + contributed(-1) + " from old_rows r group by " + grouped()
                + ") sides group by " + columns() + ") moved where not (" + isNothing() + "); "
                + "else delete from " + table.changes() + "; delete from " + table.base() + "; end if; return null; "
                + "end $body$");
        Stream.of(
                        "i after insert on T referencing new table as new_rows",
                        "u after update on T referencing new table as new_rows old table as old_rows",
                        "d after delete on T referencing old table as old_rows",
                        "t after truncate on T")
                .map(when -> "create trigger deft_sums_" + when.replace("T", register.table())
                        + " for each statement execute function " + table.base() + "()")
                .forEach(statements::add);
        statements.add("analyze " + table.base());
        return statements;
    }

    /** The statements after which nothing is kept. */
    public List<String> drop() {
        return drop(register, table);
    }

    /** The statements after which nothing is kept of a register in these tables. */
    public static List<String> drop(Register register, Table table) {
        List<String> statements = new ArrayList<>();
        for (String when : List.of("i", "u", "d", "t")) {
            statements.add("drop trigger if exists deft_sums_" + when + " on " + register.table());
        }
        statements.add("drop function if exists " + table.base() + "()");
        statements.add("drop table if exists " + table.changes());
        statements.add("drop table if exists " + table.base());
        return statements;
    }

    /**
     * Adds some changes to the base; exact for whoever reads meanwhile. Gives the number of changes that were added.
     *
     * @param most how many changes at once
     */
    public Sql fold(int most) {
        String into = addedUp().columns().stream()
                .map(m -> m + " = b." + m + " + excluded." + m)
                .collect(Collectors.joining(", "));
        return new Sql()
                .add("with gone as (delete from " + table.changes() + " where ctid = any(array(select ctid from "
                        + table.changes() + " limit ")
                .bind((long) most)
                .add(" for update skip locked)) returning *), written as (insert into " + table.base() + " as b select "
                        + columns() + ", " + AddedUp.again(addedUp().columns()) + " from gone group by " + columns()
                        + " on conflict ("
                        + columns()
                        + ") do update set " + into + ") select count(*) from gone");
    }

    /** Takes out of the base what has come to nothing. */
    public String tidy() {
        return "delete from " + table.base() + " where " + isNothing();
    }

    private Stream<String> keyColumns() {
        return keys.stream().map(Where::column);
    }

    private String columns() {
        return Stream.concat(Stream.of(DAY), keyColumns()).collect(Collectors.joining(", "));
    }

    private String grouped() {
        return Stream.concat(Stream.of(localDay()), keyColumns().map(c -> "r." + c))
                .collect(Collectors.joining(", "));
    }

    private String localDay() {
        String column = "r." + Where.column(date);
        return date.type() == FieldType.DATE
                ? column
                : "cast((" + column + " at time zone '" + zone.getId().replace("'", "''") + "') as date)";
    }

    /** What records contribute, once or the opposite of it. */
    private String contributed(int sign) {
        StringBuilder sql = new StringBuilder(localDay() + " as " + DAY);
        keyColumns().forEach(c -> sql.append(", r.").append(c));
        return sql.append(", ").append(addedUp().of("r.", sign)).toString();
    }

    private AddedUp addedUp() {
        return new AddedUp(amounts, true);
    }

    private String isNothing() {
        return addedUp().columns().stream().map(m -> m + " = 0").collect(Collectors.joining(" and "));
    }

    // ------------------------------------------------------------------ telling

    /** What is read instead of the records. */
    public Scope scope() {
        String columns = columns() + ", " + String.join(", ", addedUp().columns());
        return new Scope(
                register,
                Sql.of("(select " + columns + " from " + table.base() + " union all select " + columns + " from "
                        + table.changes() + ") as " + Sql.identifier(register.key())),
                Sql.of("true"));
    }

    /**
     * Adds up a number over the records that satisfy a condition and have a date: {@code c0}, 0 for none. The same as {@link Page#sum},
     * with whole days from what is kept and the rest of a day from the records, in one statement; nothing where the condition needs more
     * than days and keys to be told.
     *
     * @param records what the records are read over
     * @param end the record before which they come, by the date and by their numbers; all of them when there is none
     */
    public Optional<Sql> sum(Bound bound, Scope records, Field amount, Optional<Page.After> end) {
        if (!isOne(amounts, amount)) {
            return Optional.empty();
        }
        return where(bound).map(condition -> {
            Sql sql = new Sql()
                    .add("select (select coalesce(" + addedUp().sum(amount, "") + ", 0)")
                    .add(scope().source())
                    .add(" and ")
                    .add(condition)
                    .add(" and " + DAY + " is not null");
            Optional<Page.After> before = end.filter(e -> e.values().get(0).isPresent());
            before.ifPresent(e ->
                    sql.add(" and " + DAY + " < ").bind(dayOf(e.values().get(0).orElseThrow())));
            sql.add(")");
            before.ifPresent(e -> sql.add(" + (")
                    .add(Page.sum(records, Where.of(sameDay(bound, e)), amount, date, Optional.of(e), false))
                    .add(")"));
            return sql.add(" as c0");
        });
    }

    /** The condition within the day of a record. */
    private Bound sameDay(Bound bound, Page.After record) {
        LocalDate day = dayOf(record.values().get(0).orElseThrow());
        Bound from = date.type() == FieldType.DATE
                ? new Bound.DayRange(date, Optional.of(day), Optional.empty())
                : new Bound.InstantRange(
                        date, Optional.of(day.atStartOfDay(zone).toInstant()), true, Optional.empty(), false);
        return new Bound.Every(List.of(bound, from));
    }

    private LocalDate dayOf(Object value) {
        return value instanceof LocalDate day ? day : dayOf((Instant) value);
    }

    /** The field that days are in there. */
    public Field day() {
        return new Field(date.key(), date.label(), FieldType.DATE, "@day", false, List.of());
    }

    /**
     * The condition over what is kept; nothing where it needs more than days and keys to be told.
     *
     * @param bound over the records, in {@link #zone} where it is about moments
     */
    public Optional<Bound> over(Bound bound) {
        return switch (bound) {
            case Bound.Constant constant -> Optional.of(constant);
            case Bound.Not(Bound part) -> over(part).map(Bound.Not::new);
            case Bound.Every(List<Bound> parts) -> all(parts).map(Bound.Every::new);
            case Bound.Some(List<Bound> parts) -> all(parts).map(Bound.Some::new);
            case Bound.FieldComparison beside ->
                isOne(keys, beside.field()) && isOne(keys, beside.other()) ? Optional.of(beside) : Optional.empty();
            case Bound.Leaf leaf ->
                isDate(leaf.field()) ? onDay(leaf) : isOne(keys, leaf.field()) ? Optional.of(leaf) : Optional.empty();
        };
    }

    private Optional<List<Bound>> all(List<Bound> parts) {
        List<Bound> told = parts.stream().flatMap(p -> over(p).stream()).toList();
        return told.size() == parts.size() ? Optional.of(told) : Optional.empty();
    }

    private Optional<Bound> onDay(Bound.Leaf leaf) {
        return switch (leaf) {
            case Bound.IsEmpty _ -> Optional.of(new Bound.IsEmpty(day()));
            case Bound.DayRange(Field _, var from, var to) -> Optional.of(new Bound.DayRange(day(), from, to));
            case Bound.InstantRange range -> onDay(range);
            case Bound.LocalPart(Field _, ZoneId at, var part, var numbers)
            when isAt(at) -> Optional.of(new Bound.LocalPart(day(), at, part, numbers));
            case Bound.LocalDays(Field _, ZoneId at, var days)
            when isAt(at) -> Optional.of(new Bound.LocalDays(day(), at, days));
            case Bound.LocalPart _, Bound.LocalDays _, Bound.ClockRange _ -> Optional.empty();
            case Bound.OneOf _,
                    Bound.Finds _,
                    Bound.Numbers _,
                    Bound.NumberRange _,
                    Bound.Truth _,
                    Bound.Tags _,
                    Bound.TimeRange _,
                    Bound.Matches _,
                    Bound.FieldComparison _,
                    Bound.Related _ -> Optional.empty();
        };
    }

    private boolean isAt(ZoneId at) {
        return date.type() == FieldType.DATE || at.equals(zone);
    }

    /** A stretch of time is told by days where both its ends are beginnings of days. */
    private Optional<Bound> onDay(Bound.InstantRange range) {
        boolean whole = (range.from().isEmpty() || range.fromBelongs())
                && (range.to().isEmpty() || !range.toBelongs())
                && Stream.concat(range.from().stream(), range.to().stream()).allMatch(this::isBeginning);
        return whole
                ? Optional.of(new Bound.DayRange(
                        day(), range.from().map(this::dayOf), range.to().map(this::dayOf)))
                : Optional.empty();
    }

    private boolean isBeginning(Instant at) {
        return dayOf(at).atStartOfDay(zone).toInstant().equals(at);
    }

    private LocalDate dayOf(Instant at) {
        return at.atZone(zone).toLocalDate();
    }

    /** The same as SQL over {@link #scope}; nothing where it needs more than days and keys to be told. */
    public Optional<Sql> where(Bound bound) {
        return over(bound).map(Where::of);
    }

    /**
     * The totals over what is kept; nothing where they need more.
     *
     * @param at the zone that the totals are read in
     */
    public Optional<Totals> over(Totals totals, ZoneId at) {
        boolean told = isAt(at)
                && !totals.measures().finite()
                && totals.measures().measures().stream().allMatch(this::isTold)
                && totals.flow().stream().allMatch(a -> isOne(amounts, a));
        if (!told) {
            return Optional.empty();
        }
        List<Groups.Level> rows =
                totals.rows().stream().flatMap(l -> over(l).stream()).toList();
        Optional<Groups.Level> across = totals.across().flatMap(this::over);
        return rows.size() == totals.rows().size()
                        && across.isPresent() == totals.across().isPresent()
                ? Optional.of(new Totals(
                        rows,
                        across,
                        Measures.kept(totals.measures().measures(), addedUp()),
                        totals.keep(),
                        totals.flow()))
                : Optional.empty();
    }

    private Optional<Groups.Level> over(Groups.Level level) {
        return switch (level) {
            case Groups.Level.Values(Field field) -> isOne(keys, field) ? Optional.of(level) : Optional.empty();
            case Groups.Level.Periods(Field field, Histogram.Step step) ->
                isDate(field) && step != Histogram.Step.HOUR
                        ? Optional.of(new Groups.Level.Periods(day(), step))
                        : Optional.empty();
            case Groups.Level.Parts(Field field, var part) ->
                isDate(field) ? Optional.of(new Groups.Level.Parts(day(), part)) : Optional.empty();
            case Groups.Level.Bands(Field field, List<Bound> bands) ->
                all(bands).map(told -> new Groups.Level.Bands(isDate(field) ? day() : field, told));
            case Groups.Level.Hours _ -> Optional.empty();
        };
    }

    private boolean isTold(Measure measure) {
        return switch (measure.function()) {
            case COUNT -> true;
            case SUM, AVERAGE -> isOne(amounts, measure.field().orElseThrow());
            case DISTINCT, MEDIAN, PERCENTILE, MIN, MAX -> false;
        };
    }

    /** A reader's field may have other options and bands than the register's own. */
    private static boolean isOne(List<Field> fields, Field field) {
        return fields.stream().anyMatch(f -> f.key().equals(field.key()));
    }

    /** Whether it is the date whose days sums are told apart by. */
    public boolean isDate(Field field) {
        return field.key().equals(date.key());
    }
}
