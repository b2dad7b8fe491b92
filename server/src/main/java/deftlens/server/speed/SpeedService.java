package deftlens.server.speed;

import deftlens.core.condition.Bound;
import deftlens.core.sql.Indexes;
import deftlens.core.sql.Order;
import deftlens.core.sql.Sql;
import deftlens.server.jobs.JobRun;
import deftlens.server.jobs.Jobs;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.platform.Problem;
import deftlens.server.platform.StoppedQuery;
import deftlens.server.question.Orders;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.question.Shape;
import deftlens.server.registers.Origin;
import deftlens.server.registers.RecordTables;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.rows.RowsService;
import deftlens.server.trail.Trail;
import deftlens.server.values.Parameters;
import deftlens.server.views.ViewsService;
import jakarta.persistence.EntityManager;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import javax.sql.DataSource;
import org.postgresql.PGConnection;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Finds shared views that are slow, tries indexes for them on a sample of the records, and builds those that somebody
 * chooses, without holding up anybody who writes.
 */
@Service
class SpeedService {

    private static final Logger LOG = LoggerFactory.getLogger(SpeedService.class);

    /** Only indexes whose name begins so are ours to drop. */
    private static final String PREFIX = "deft_ix_";

    private static final int MOST_VIEWS = 20;
    private static final int PAGE = 100;
    private static final int SAMPLE = 200_000;
    /** The name of the job that builds an index. */
    static final String BUILD = "index";

    /** How long it is told how the building of an index went. */
    private static final Duration NEWS = Duration.ofHours(1);

    private static final double SLOW_MILLIS = 40;
    private static final double WORTH = 2;
    private static final int PATIENCE_MILLIS = 8_000;

    private final RegisterCatalogue registers;
    private final ViewsService views;
    private final RowsService rows;
    private final Questions questions;
    private final PeopleService people;
    private final EntityManager entities;
    private final DataSource database;
    private final TransactionTemplate transactions;
    private final Trail trail;
    private final Jobs jobs;
    private final IndexProposals proposals;

    SpeedService(
            RegisterCatalogue registers,
            ViewsService views,
            RowsService rows,
            Questions questions,
            PeopleService people,
            EntityManager entities,
            DataSource database,
            org.springframework.transaction.PlatformTransactionManager manager,
            Jobs jobs,
            IndexProposals proposals,
            Trail trail) {
        this.registers = registers;
        this.views = views;
        this.rows = rows;
        this.questions = questions;
        this.people = people;
        this.entities = entities;
        this.database = database;
        this.transactions = new TransactionTemplate(manager);
        this.trail = trail;
        this.jobs = jobs;
        this.proposals = proposals;
    }

    /**
     * An index of a register's table.
     *
     * @param ours whether it was built here and can be dropped again
     * @param uses how often the database has walked it
     */
    record Index(String name, String columns, long bytes, long uses, boolean ours) {}

    /**
     * A view and the time that the database takes for its first page.
     *
     * @param millis absent where it took longer than anybody should wait
     */
    record ViewTime(@AsText long id, String name, Optional<Double> millis) {}

    /**
     * An index that would help a view.
     *
     * @param token to be sent back to have it built
     * @param words what the index is over
     * @param view the slowest view that it helps
     * @param before milliseconds for the first page on the sample as things are
     * @param after milliseconds with the index
     * @param sample how many records the sample had
     */
    record IndexProposal(
            String token, String words, String columns, String view, double before, double after, long sample) {}

    /** How quick the shared views of a register are, and what would help. */
    record Speed(List<ViewTime> views, List<IndexProposal> proposals, List<Index> indexes, List<IndexBuild> builds) {}

    /**
     * An index on its way.
     *
     * @param state building, built or failed
     * @param done how much of it is done, from 0 to 1, where the database says
     */
    record IndexBuild(String name, String words, String state, Optional<Double> done, String message) {}

    /** The indexes there are, and those being built. */
    @Transactional(readOnly = true)
    public Speed indexes(String key, SignedIn who) {
        requireAdministrator(who);
        RegisterForReader described = own(key, who);
        return new Speed(List.of(), List.of(), list(described), builds(key));
    }

    private RegisterForReader own(String key, SignedIn who) {
        RegisterForReader described = registers.get(key, who);
        if (!described.can(Origin.Capability.INDEXES)) {
            throw Problem.unprocessable(
                    "not-ours",
                    described.register().label() + " are only read here; their table is not ours to index.");
        }
        return described;
    }

    private List<Index> list(RegisterForReader described) {
        List<?> found = entities.createNativeQuery("""
                        select c.relname, pg_get_indexdef(i.indexrelid), pg_relation_size(c.oid),
                               coalesce(s.idx_scan, 0)
                        from pg_index i join pg_class c on c.oid = i.indexrelid
                             left join pg_stat_user_indexes s on s.indexrelid = i.indexrelid
                        where i.indrelid = cast(?1 as regclass) and i.indisvalid order by c.relname""")
                .setParameter(1, described.table().name())
                .getResultList();
        return found.stream()
                .map(Object[].class::cast)
                .map(r -> new Index(
                        (String) r[0],
                        ((String) r[1]).replaceFirst("^.* USING ", ""),
                        ((Number) r[2]).longValue(),
                        ((Number) r[3]).longValue(),
                        ((String) r[0]).startsWith(PREFIX)))
                .toList();
    }

    private List<IndexBuild> builds(String key) {
        List<?> progress = entities.createNativeQuery("""
                        select c.relname, case when p.blocks_total > 0 then p.blocks_done / cast(p.blocks_total as float8) end
                        from pg_stat_progress_create_index p join pg_class c on c.oid = p.index_relid""").getResultList();
        Set<String> told = new HashSet<>();
        return jobs.about(BUILD, key, NEWS, Build.class).stream()
                .filter(build -> told.add(build.input().name()))
                .map(build -> new IndexBuild(
                        build.input().name(),
                        build.input().words(),
                        switch (build.job().state()) {
                            case WAITING, RUNNING -> "building";
                            case DONE -> "built";
                            case FAILED, STOPPED -> "failed";
                        },
                        progress.stream()
                                .map(Object[].class::cast)
                                .filter(r -> build.input().name().equals(r[0]) && r[1] != null)
                                .map(r -> ((Number) r[1]).doubleValue())
                                .findFirst(),
                        build.job().message()))
                .toList();
    }

    /**
     * What a job that builds an index needs to know.
     *
     * @param name the index
     * @param words what it is over
     */
    record Build(String register, String name, String words, long person) {}

    /** Times the first page of each shared view, and tries indexes for the slow ones on a sample. */
    public Speed propose(String key, SignedIn who) {
        requireAdministrator(who);
        RegisterForReader described = own(key, who);
        List<ViewTime> times = new ArrayList<>();
        List<Asked> slow = new ArrayList<>();
        for (ViewsService.View view : shared(key, who)) {
            Asked asked = asked(described, view);
            if (asked == null) {
                continue;
            }
            Optional<Double> millis = time(asked.sql);
            times.add(new ViewTime(view.id(), view.name(), millis));
            if (millis.isEmpty() || millis.get() > SLOW_MILLIS) {
                slow.add(asked);
            }
        }
        times.sort(Comparator.comparing(t -> -t.millis().orElse(1e9)));
        List<IndexProposal> proposals = slow.isEmpty() ? List.of() : tried(described, slow);
        return transactions.execute(s -> new Speed(times, proposals, list(described), builds(key)));
    }

    private List<ViewsService.View> shared(String key, SignedIn who) {
        return views.openTo(who).stream()
                .filter(v -> v.register().equals(key) && !v.shares().isEmpty())
                .limit(MOST_VIEWS)
                .toList();
    }

    /** A view's first page. */
    private record Asked(ViewsService.View view, Bound bound, Order order, Sql sql) {}

    private Asked asked(RegisterForReader described, ViewsService.View view) {
        try {
            // As its owner reads it: an administrator may have no site of their own.
            PeopleService.Profile owner = people.profile(view.owner().id());
            Question question = views.question(
                    view.id(),
                    new SignedIn(owner.id(), owner.name(), owner.role()),
                    ViewsService.ViewParameters.AS_SHARED);
            Order order = Orders.order(described, Optional.of(view.order()), question.condition());
            Bound bound = questions.bind(question);
            return new Asked(
                    view,
                    bound,
                    order,
                    rows.page(
                            question.shown(order, Orders.columns(described, Optional.of(view.columns())), Shape.USUAL),
                            PAGE));
        } catch (Problem asks) {
            // A view with open blanks, or one that does not fit any more, has no page to be timed.
            return null;
        }
    }

    /** The time of a query in the database, the better of two; absent when it takes too long. */
    private Optional<Double> time(Sql sql) {
        try (Connection connection = database.getConnection()) {
            return time(connection, sql, "");
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }

    private static Optional<Double> time(Connection connection, Sql sql, String before) throws SQLException {
        connection.setAutoCommit(false);
        try (Statement statement = connection.createStatement()) {
            statement.execute("set local statement_timeout = " + PATIENCE_MILLIS);
            if (!before.isEmpty()) {
                statement.execute(before);
            }
            double best = Double.MAX_VALUE;
            for (int i = 0; i < 2; i++) {
                try (PreparedStatement explain =
                        connection.prepareStatement("explain (analyze, timing off, format text) " + sql.text())) {
                    Parameters.bind(explain, 1, sql.values());
                    try (ResultSet lines = explain.executeQuery()) {
                        while (lines.next()) {
                            String line = lines.getString(1);
                            if (line.startsWith("Execution Time: ")) {
                                best = Math.min(
                                        best,
                                        Double.parseDouble(line.substring(16).replace(" ms", "")));
                            }
                        }
                    }
                }
            }
            return Optional.of(best);
        } catch (SQLException e) {
            if (StoppedQuery.isBehind(e)) {
                return Optional.empty();
            }
            throw e;
        } finally {
            connection.rollback();
            connection.setAutoCommit(true);
        }
    }

    /** Tries the candidates of the slow views on a temporary sample of the records that has the indexes there are. */
    private List<IndexProposal> tried(RegisterForReader described, List<Asked> slow) {
        List<IndexProposal> found = new ArrayList<>();
        String table = described.table().name();
        try (Connection connection = database.getConnection()) {
            try (Statement statement = connection.createStatement()) {
                statement.execute("create temporary table deft_sample (like " + table + " including indexes)");
                long all = number(
                        statement,
                        "select cast(reltuples as bigint) from pg_class where oid = '" + table.replace("'", "''")
                                + "'::regclass");
                double share = all <= SAMPLE ? 100 : 100.0 * SAMPLE / all;
                long sample = statement.executeUpdate("insert into deft_sample select * from " + table
                        + " tablesample system (" + share + ") repeatable (7)");
                statement.execute("analyze deft_sample");
                for (Asked asked : slow) {
                    Sql onSample = replaced(asked.sql, table);
                    Optional<Double> before = time(connection, onSample, "");
                    IndexProposal best = null;
                    for (Indexes.Candidate candidate : Indexes.of(
                            described.register(), RecordTables.columns(described), asked.bound, asked.order)) {
                        IndexProposal one = tried(connection, described, asked, onSample, before, candidate, sample);
                        if (one != null && (best == null || one.after() < best.after())) {
                            best = one;
                        }
                    }
                    IndexProposal chosen = best;
                    if (chosen != null
                            && found.stream().noneMatch(f -> f.token().equals(chosen.token()))) {
                        found.add(chosen);
                    }
                }
            } finally {
                try (Statement statement = connection.createStatement()) {
                    statement.execute("drop table if exists deft_sample");
                }
            }
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
        return found;
    }

    private IndexProposal tried(
            Connection connection,
            RegisterForReader described,
            Asked asked,
            Sql onSample,
            Optional<Double> before,
            Indexes.Candidate candidate,
            long sample)
            throws SQLException {
        if (candidate.method().equals("gin") && !hasTrigrams()) {
            return null;
        }
        Optional<Double> after = time(
                connection,
                onSample,
                "create index on deft_sample using " + candidate.method() + " (" + candidate.columns() + ")");
        boolean worth = after.isPresent() && (before.isEmpty() || before.get() > WORTH * Math.max(0.05, after.get()));
        if (!worth) {
            return null;
        }
        String token = name(described, candidate);
        proposals.put(token, described.id(), candidate);
        return new IndexProposal(
                token,
                candidate.words(),
                candidate.method() + " (" + candidate.columns() + ")",
                asked.view.name(),
                before.orElse((double) PATIENCE_MILLIS),
                after.get(),
                sample);
    }

    /** The same query over the sample; the table stands in it as the catalogue spells it. */
    private static Sql replaced(Sql sql, String table) {
        Sql other = new Sql();
        String[] pieces = sql.text(i -> "\u0001").split("\u0001", -1);
        for (int i = 0; i < pieces.length; i++) {
            other.add(pieces[i].replace(table, "deft_sample"));
            if (i < sql.values().size()) {
                other.bind(sql.values().get(i));
            }
        }
        return other;
    }

    private static long number(Statement statement, String sql) throws SQLException {
        try (ResultSet found = statement.executeQuery(sql)) {
            found.next();
            return found.getLong(1);
        }
    }

    private boolean hasTrigrams() {
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement()) {
            return number(statement, "select count(*) from pg_available_extensions where name = 'pg_trgm'") > 0
                    && statement.executeUpdate("create extension if not exists pg_trgm") >= 0;
        } catch (SQLException e) {
            return false;
        }
    }

    private static String name(RegisterForReader described, Indexes.Candidate candidate) {
        try {
            byte[] digest = java.security.MessageDigest.getInstance("SHA-256")
                    .digest((described.table().name() + candidate.method() + candidate.columns())
                            .getBytes(java.nio.charset.StandardCharsets.UTF_8));
            return PREFIX + HexFormat.of().formatHex(digest, 0, 8);
        } catch (java.security.NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Has a proposed index built; people go on reading and writing meanwhile. */
    public Speed build(String key, String token, SignedIn who) {
        requireAdministrator(who);
        RegisterForReader described = own(key, who);
        IndexProposals.Proposal wanted = proposals
                .find(token, described.id())
                .orElseThrow(() -> Problem.notFound("This proposal (look for slow views again)"));
        boolean going = jobs.about(BUILD, key, NEWS, Build.class).stream()
                .anyMatch(b -> !b.job().state().isEnded() && b.input().name().equals(token));
        if (going) {
            throw Problem.unprocessable("already-building", "This index is being built.");
        }
        transactions.executeWithoutResult(s -> {
            trail.write(Optional.of(who.id()), "register", described.id(), "index built", null, wanted.words());
            jobs.begin(BUILD, key, new Build(key, token, wanted.words(), who.id()), who);
        });
        return indexes(key, who);
    }

    /** Builds an index, as a job. One that was left half built is built anew. */
    void build(JobRun job) {
        Build asked = job.input(Build.class);
        RegisterForReader described = registers
                .whole(asked.register())
                .filter(r -> r.can(Origin.Capability.INDEXES))
                .orElseThrow(() -> Problem.notFound("The register “" + asked.register() + "”"));
        IndexProposals.Proposal wanted = proposals
                .find(asked.name(), described.id())
                .orElseThrow(() -> Problem.notFound("This proposal (look for slow views again)"));
        drop(described, asked.name());
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement()) {
            // Building without holding writers up cannot be part of a transaction.
            connection.setAutoCommit(true);
            job.working(connection.unwrap(PGConnection.class));
            job.at("over " + wanted.words(), 0);
            statement.execute("set statement_timeout = 0");
            statement.execute("create index concurrently " + Sql.identifier(asked.name()) + " on "
                    + described.table().name() + " using " + wanted.method() + " (" + wanted.columns() + ")");
            statement.execute("analyze " + described.table().name());
            statement.execute("reset statement_timeout");
            job.working(null);
        } catch (SQLException e) {
            job.working(null);
            drop(described, asked.name());
            throw new IllegalStateException(e);
        }
    }

    /** Drops an index that was built here. */
    public Speed drop(String key, String name, SignedIn who) {
        requireAdministrator(who);
        RegisterForReader described = own(key, who);
        if (!name.startsWith(PREFIX)
                || transactions.execute(s -> list(described)).stream()
                        .noneMatch(i -> i.name().equals(name))) {
            throw Problem.notFound("An index of that name that was built here");
        }
        drop(described, name);
        transactions.executeWithoutResult(
                s -> trail.write(Optional.of(who.id()), "register", described.id(), "index dropped", name, null));
        return transactions.execute(s -> indexes(key, who));
    }

    private void drop(RegisterForReader described, String name) {
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement()) {
            connection.setAutoCommit(true);
            statement.execute("drop index concurrently if exists records." + Sql.identifier(name));
        } catch (SQLException e) {
            LOG.warn("an index of {} could not be dropped", described.register().key(), e);
        }
    }

    private static void requireAdministrator(SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator decides about indexes.");
        }
    }
}
