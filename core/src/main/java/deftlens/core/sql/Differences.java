package deftlens.core.sql;

/**
 * The SQL that holds the records of a question at an earlier moment against those of a later one.
 *
 * @param then selects the numbers of the records at the earlier moment: {@code c0}
 * @param now the same at the later one
 * @param written selects the numbers of the records that were written in between: {@code c0}
 * @param last the set of changes that wrote a record last, an expression over its number {@code b.id}
 */
public record Differences(Sql then, Sql now, Sql written, Sql last) {

    /** What became of a record. */
    public enum Became {
        /** It is in the question, and was not. */
        ENTERED,
        /** It was in the question, and is not. */
        LEFT,
        /** It was and is in the question, and was written in between. */
        CHANGED
    }

    /**
     * Selects the records that entered, left or changed: the number of each, what became of it by its name in {@link Became}, and how many
     * there are of its kind.
     *
     * @param most how many of each kind at the most, those that were written last
     */
    public Sql records(int most) {
        return new Sql()
                .add("with deft_then as (")
                .add(then)
                .add("), deft_now as (")
                .add(now)
                .add("), deft_became as (select coalesce(n.c0, t.c0) as id, case when t.c0 is null then '"
                        + Became.ENTERED + "' when n.c0 is null then '" + Became.LEFT + "' else '" + Became.CHANGED
                        + "' end as became from deft_then t full join deft_now n on n.c0 = t.c0"
                        + " where n.c0 is null or t.c0 is null or n.c0 in (")
                .add(written)
                .add(")), deft_ranked as (select id, became, count(*) over (partition by became) as records,"
                        + " row_number() over (partition by became order by (")
                .add(last)
                .add(") desc nulls last, id desc) as place from deft_became b)"
                        + " select id, became, records from deft_ranked where place <= ")
                .bind((long) most)
                .add(" order by became, place");
    }
}
