package deftlens.core.sql;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import java.util.List;
import java.util.stream.Collectors;

/**
 * The SQL that merges staged records into a register's own table: those whose record is there change it, the others are added. Which record
 * is meant is said by keys, which match letter by letter.
 *
 * @param stage the table of the staged records: {@value #LINE}, the number of each, and the columns of the fields
 * @param fields the fields that are staged, the keys among them
 * @param keys the fields that tell records apart; at least one
 */
public record Merge(Register register, String stage, List<Field> fields, List<Field> keys) {

    /** The column of the stage with the number of each record, from 1. */
    public static final String LINE = "deft_line";

    public Merge {
        fields = List.copyOf(fields);
        keys = List.copyOf(keys);
        if (keys.isEmpty() || !fields.containsAll(keys)) {
            throw new IllegalArgumentException("records are told apart by fields that are staged");
        }
    }

    /** The stage as a table of its own, which goes with the transaction; without records. */
    public static Sql stage(Register register, String stage, List<Field> fields) {
        return Sql.of("create temporary table " + stage + " on commit drop as select cast(0 as bigint) as " + LINE
                + ", " + Write.columns(fields) + " from " + register.table() + " where false");
    }

    /** The index that finds staged records by their keys. */
    public Sql index() {
        return Sql.of("create index on " + stage + " ("
                + keys.stream().map(k -> folded(k, "")).collect(Collectors.joining(", ")) + ")");
    }

    /** Takes staged records away that say the same as an earlier one, so that a record that is there twice says nothing twice. */
    public Sql withoutRepetitions() {
        return Sql.of("delete from " + stage + " where " + LINE + " in (select " + LINE + " from (select " + LINE
                + ", row_number() over (partition by " + Write.columns(fields) + " order by " + LINE + ") as n from "
                + stage + " where " + complete() + ") as rows where n > 1)");
    }

    /** The records whose keys an earlier one has, with the number of that. */
    public Sql contradictions() {
        return Sql.of("select " + LINE + ", first from (select " + LINE + ", min(" + LINE + ") over (partition by "
                + Write.columns(keys) + ") as first from " + stage + " where " + complete()
                + ") as rows where first < " + LINE + " order by 1");
    }

    /** The staged records whose keys several records have, with how many. */
    public Sql ambiguities() {
        return Sql.of("select s." + LINE + ", count(*) from " + stage + " s join " + register.table() + " r on "
                + match() + " group by 1 having count(*) > 1 order by 1");
    }

    /** The staged records whose record is not there. */
    public Sql missing() {
        return Sql.of("select s." + LINE + " from " + stage + " s where " + isMissing() + " order by 1");
    }

    /**
     * Changes the records that are there and differ.
     *
     * @param written the staged fields that are written
     * @param which a condition over the stage, {@code s}
     */
    public Sql changes(List<Field> written, Sql which) {
        String set = written.stream()
                .map(f -> Where.column(f) + " = s." + Where.column(f))
                .collect(Collectors.joining(", "));
        return new Sql()
                .add("update " + register.table() + " r set " + set + " from " + stage + " s where " + match()
                        + " and ")
                .add(which)
                .add(" and (" + columns(written, "r.") + ") is distinct from (" + columns(written, "s.") + ")");
    }

    /**
     * The staged records that would write one before a day or moment, or move one there: {@value #LINE}, and 0. What would stay as
     * it is writes nothing.
     *
     * @param written the staged fields that are written of records that are there
     * @param which a condition over the stage, {@code s}
     * @param main the date or moment that decides
     * @param until the first day, or moment, that is not before
     */
    public Sql before(List<Field> written, Sql which, Field main, Object until) {
        String column = Where.column(main);
        Sql sql = new Sql()
                .add("select s." + LINE + ", 0 from " + stage + " s left join " + register.table() + " r on " + match()
                        + " where ")
                .add(which)
                .add(" and case when r." + Sql.identifier(register.idColumn()) + " is null then ");
        if (fields.contains(main)) {
            sql.add("s." + column + " < ").bind(until);
        } else {
            sql.add("false");
        }
        sql.add(" else ");
        if (written.isEmpty()) {
            sql.add("false");
        } else {
            sql.add("(" + columns(written, "r.") + ") is distinct from (" + columns(written, "s.") + ") and (r."
                            + column + " < ")
                    .bind(until);
            if (written.contains(main)) {
                sql.add(" or s." + column + " < ").bind(until);
            }
            sql.add(")");
        }
        return sql.add(" end order by 1");
    }

    /** Adds the records that are not there, in the order of their numbers. */
    public Sql additions(Sql which) {
        return new Sql()
                .add("insert into " + register.table() + " (" + Write.columns(fields) + ") select "
                        + Write.columns(fields) + " from " + stage + " s where ")
                .add(which)
                .add(" and " + isMissing() + " order by " + LINE);
    }

    private String isMissing() {
        return "not exists (select 1 from " + register.table() + " r where " + match() + ")";
    }

    private String match() {
        return keys.stream()
                .map(k -> {
                    String exactly = "r." + Where.column(k) + " = s." + Where.column(k);
                    // Texts are indexed with their letter case folded.
                    return k.type() == FieldType.TEXT
                            ? exactly + " and " + folded(k, "r.") + " = " + folded(k, "s.")
                            : exactly;
                })
                .collect(Collectors.joining(" and "));
    }

    private String complete() {
        return keys.stream().map(k -> Where.column(k) + " is not null").collect(Collectors.joining(" and "));
    }

    private static String folded(Field key, String table) {
        String column = table + Where.column(key);
        return key.type() == FieldType.TEXT ? "lower(" + column + ")" : column;
    }

    private static String columns(List<Field> fields, String table) {
        return fields.stream().map(f -> table + Where.column(f)).collect(Collectors.joining(", "));
    }
}
