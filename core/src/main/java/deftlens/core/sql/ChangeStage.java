package deftlens.core.sql;

import deftlens.core.change.Assignment;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.time.Unit;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/**
 * The SQL of a change of many records: what each of them has and what it is to have, in a table that goes with the transaction. The
 * table is what is counted for a preview, and what the records are then written from.
 *
 * @param register the register, with a table of its own
 * @param assignments what becomes of which field, at most once each; none where the records are taken away
 * @param zone whose days and months dates are moved by
 */
public record ChangeStage(Register register, List<Assignment> assignments, ZoneId zone) {

    /** The table. */
    public static final String TABLE = "deft_changes";

    /** The first amount of money, and the first number of seconds, that no column holds. */
    private static final BigDecimal LIMIT = new BigDecimal("1e12");

    public ChangeStage {
        assignments = List.copyOf(assignments);
        if (assignments.stream().map(Assignment::field).distinct().count() < assignments.size()) {
            throw new IllegalArgumentException("a field is written once");
        }
    }

    /** Why a record cannot be as it would be. */
    public enum Reason {
        /** It lies in a closed period, or would. */
        CLOSED,
        /** A field that every record needs would be empty. */
        EMPTY,
        /** A choice would be none of those that the field has. */
        UNKNOWN,
        /** A number would be larger than its column holds, or a date beyond the years that count. */
        BEYOND
    }

    /**
     * A reason with what holds for the records that it is about.
     *
     * @param field the field that it comes from
     * @param where over the table
     */
    public record Refusal(Reason reason, Field field, Sql where) {}

    /**
     * Where records are closed.
     *
     * @param main the date or moment that decides
     * @param open the first day, or moment, that is open
     */
    public record Closed(Field main, Object open) {}

    /**
     * Makes the table.
     *
     * @param numbers selects the numbers of the records
     * @param main the date that decides whether a record is closed
     */
    public Sql make(Sql numbers, Optional<Field> main) {
        String id = Sql.identifier(register.idColumn());
        Sql sql = new Sql()
                .add("create temporary table " + TABLE + " on commit drop as select d.*, " + differs()
                        + " as changed from (select " + id + " as id, " + Sql.identifier(Stood.SINCE) + " as since");
        main.ifPresent(m -> sql.add(", " + Where.column(m) + " as main"));
        for (int i = 0; i < assignments.size(); i++) {
            Field field = assignments.get(i).field();
            // The case gives the new value the type of the column.
            sql.add(", " + Where.value(field) + " as v" + i + ", case when false then " + Where.value(field) + " else ")
                    .add(becomes(assignments.get(i)))
                    .add(" end as n" + i);
        }
        sql.add(" from " + register.table() + " where " + id + " in (")
                .add(numbers)
                .add(")");
        return sql.add(") d");
    }

    /** Has the records found by their numbers, and counted well. */
    public List<Sql> prepare() {
        return List.of(Sql.of("create unique index on " + TABLE + " (id)"), Sql.of("analyze " + TABLE));
    }

    private String differs() {
        if (assignments.isEmpty()) {
            return "true";
        }
        StringBuilder was = new StringBuilder();
        StringBuilder is = new StringBuilder();
        for (int i = 0; i < assignments.size(); i++) {
            was.append(i == 0 ? "" : ", ").append("v").append(i);
            is.append(i == 0 ? "" : ", ").append("n").append(i);
        }
        return "row(" + was + ") is distinct from row(" + is + ")";
    }

    private Sql becomes(Assignment assignment) {
        String column = Where.column(assignment.field());
        return switch (assignment) {
            case Assignment.Set(Field field, Optional<Object> value) -> Write.value(field, value);
            case Assignment.Add(Field _, BigDecimal amount) ->
                new Sql().add(column + " + cast(").bind(amount).add(" as numeric)");
            case Assignment.Move move -> moved(move);
            case Assignment.Tag(Field _, String tag, boolean on) ->
                on
                        ? new Sql()
                                .add("case when cast(")
                                .bind(tag)
                                .add(" as text) = any(" + column + ") then " + column + " else " + column + " || cast(")
                                .bind(tag)
                                .add(" as text) end")
                        : new Sql()
                                .add("array_remove(" + column + ", cast(")
                                .bind(tag)
                                .add(" as text))");
            case Assignment.Take(Field _, Field other) -> Sql.of(Where.value(other));
        };
    }

    private Sql moved(Assignment.Move move) {
        Field field = move.field();
        String column = Where.column(field);
        Unit unit = move.unit() == Unit.QUARTER ? Unit.MONTH : move.unit();
        int count = move.unit() == Unit.QUARTER ? 3 * move.count() : move.count();
        Sql interval =
                new Sql().add(" + cast(").bind(count + " " + unit.singular()).add(" as interval)");
        if (field.type() == FieldType.DATE) {
            return new Sql().add("cast(" + column).add(interval).add(" as date)");
        }
        if (unit.isClock()) {
            return new Sql().add(column).add(interval);
        }
        return new Sql()
                .add("((")
                .add(Where.local(field, zone))
                .add(interval)
                .add(") at time zone ")
                .bind(zone.getId())
                .add(")");
    }

    /**
     * Selects how many records there are, how many of them would change, and a mark of them all: it is another one as soon as
     * any of them was written by anybody, or others are among them.
     */
    public static Sql total() {
        return Sql.of("select count(*), count(*) filter (where changed),"
                + " coalesce(bit_xor(hashint8extended(id, coalesce(since, 0))), 0) from " + TABLE);
    }

    /**
     * Selects what becomes of what in how many records: the value before, the value after and the count; the most frequent first.
     *
     * @param index which assignment
     * @param most how many of them at most
     */
    public Sql steps(int index, int most) {
        String pair = "v" + index + ", n" + index;
        return Sql.of("select " + pair + ", count(*) from " + TABLE + " where v" + index + " is distinct from n" + index
                + " group by " + pair + " order by 3 desc, 1, 2 limit " + most);
    }

    /** Selects how many different steps {@link #steps} has without a limit, and how many records they are about. */
    public Sql extent(int index) {
        String pair = "v" + index + ", n" + index;
        return Sql.of("select count(distinct (" + pair + ")), count(*) from " + TABLE + " where v" + index
                + " is distinct from n" + index);
    }

    /** The reasons why records cannot be as they would be. */
    public List<Refusal> refusals(Optional<Closed> closed) {
        List<Refusal> refusals = new ArrayList<>();
        closed.ifPresent(c -> {
            Sql where = new Sql().add("changed and (main < ").bind(c.open());
            at(c.main()).ifPresent(i -> where.add(" or n" + i + " < ").bind(c.open()));
            refusals.add(new Refusal(Reason.CLOSED, c.main(), where.add(")")));
        });
        for (int i = 0; i < assignments.size(); i++) {
            Field field = assignments.get(i).field();
            String becomes = "n" + i;
            if (field.required() && field.type() != FieldType.TAGS) {
                refusals.add(new Refusal(Reason.EMPTY, field, Sql.of("changed and " + becomes + " is null")));
            }
            boolean listed = field.type() == FieldType.CHOICE || field.type() == FieldType.PERSON;
            if (listed && !field.options().isEmpty()) {
                refusals.add(new Refusal(
                        Reason.UNKNOWN,
                        field,
                        new Sql()
                                .add("changed and " + becomes + " <> all(cast(")
                                .bind(field.options().stream()
                                        .map(o -> o.value())
                                        .toArray(String[]::new))
                                .add(" as text[]))")));
            }
            beyond(field, becomes).ifPresent(where -> refusals.add(new Refusal(Reason.BEYOND, field, where)));
        }
        return refusals;
    }

    private Optional<Sql> beyond(Field field, String value) {
        return switch (field.type()) {
            case MONEY, DURATION ->
                Optional.of(new Sql().add("changed and abs(" + value + ") >= ").bind(LIMIT));
            case DATE ->
                Optional.of(new Sql()
                        .add("changed and not " + value + " between ")
                        .bind(LocalDate.of(1, 1, 1))
                        .add(" and ")
                        .bind(LocalDate.of(9999, 12, 31)));
            case MOMENT ->
                Optional.of(Sql.of("changed and not (" + value + " >= timestamptz '0001-01-02 00:00:00+00' and " + value
                        + " < timestamptz '9999-12-31 00:00:00+00')"));
            case TEXT, NUMBER, CHOICE, PERSON, YES_NO, TAGS, TIME, SPAN -> Optional.empty();
        };
    }

    private Optional<Integer> at(Field field) {
        for (int i = 0; i < assignments.size(); i++) {
            if (assignments.get(i).field().key().equals(field.key())) {
                return Optional.of(i);
            }
        }
        return Optional.empty();
    }

    /**
     * The records that would change as they would be, as a query in brackets with a name.
     *
     * @param fields the fields that are read
     * @param name what it is called, already quoted
     */
    public Sql supposed(List<Field> fields, String name) {
        Map<String, Integer> written = new HashMap<>();
        for (int i = 0; i < assignments.size(); i++) {
            written.put(assignments.get(i).field().key(), i);
        }
        StringBuilder columns = new StringBuilder("r." + Sql.identifier(register.idColumn()));
        for (Field field : fields) {
            String column = Where.column(field);
            Integer i = written.get(field.key());
            columns.append(", ").append(i == null ? "r." + column : "s.n" + i + " as " + column);
        }
        return Sql.of("(select " + columns + " from " + register.table() + " r join " + TABLE + " s on s.id = r."
                + Sql.identifier(register.idColumn()) + " where s.changed) as " + name);
    }

    /**
     * Writes what would change. A record that somebody wrote after the table was made is left as it is, whoever waited for whom: where
     * fewer are written than would change, nothing of it may stand.
     */
    public Sql write() {
        String id = Sql.identifier(register.idColumn());
        String since = Sql.identifier(Stood.SINCE);
        String which = " where s.id = r." + id + " and s.changed and r." + since + " is not distinct from s.since";
        if (assignments.isEmpty()) {
            return Sql.of("delete from " + register.table() + " r using " + TABLE + " s" + which);
        }
        String set = IntStream.range(0, assignments.size())
                .mapToObj(i -> Where.column(assignments.get(i).field()) + " = s.n" + i)
                .collect(Collectors.joining(", "));
        return Sql.of("update " + register.table() + " r set " + set + " from " + TABLE + " s" + which);
    }
}
