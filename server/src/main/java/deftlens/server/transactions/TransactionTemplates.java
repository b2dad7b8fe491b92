package deftlens.server.transactions;

import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.platform.Problem;
import deftlens.server.platform.VisibleText;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.registers.TransactionRules;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Clock;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.springframework.dao.DuplicateKeyException;
import org.springframework.http.HttpStatus;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

/** What is posted again and again, kept under a name for all who may post in a register. What it holds is looked at when it is posted. */
@Service
public class TransactionTemplates {

    private static final int MOST_LETTERS = 120;
    private static final int MOST_TEMPLATES = 500;

    private final JdbcClient database;
    private final TransactionsService transactions;
    private final PeopleService people;
    private final Clock clock;
    private final ObjectMapper json;

    TransactionTemplates(
            JdbcClient database,
            TransactionsService transactions,
            PeopleService people,
            Clock clock,
            ObjectMapper json) {
        this.database = database;
        this.transactions = transactions;
        this.people = people;
        this.clock = clock;
        this.json = json;
    }

    /**
     * A template.
     *
     * @param values the fields that are said once
     * @param lines the fields of the lines
     * @param who the full name of whoever made it
     * @param mayChange whether the reader may change it and take it away
     * @param version to be sent back with a change
     */
    public record Template(
            @AsText long id,
            String name,
            Map<String, JsonNode> values,
            List<Map<String, JsonNode>> lines,
            String who,
            boolean mayChange,
            int version) {}

    private record Content(Map<String, JsonNode> values, List<Map<String, JsonNode>> lines) {}

    /** All of a register, by name. */
    @Transactional(readOnly = true)
    public List<Template> all(String key, SignedIn who) {
        return all(transactions.mayPost(key, who), who);
    }

    private List<Template> all(RegisterForReader described, SignedIn who) {
        Map<Long, String> names = people.everyone().stream()
                .collect(Collectors.toMap(PeopleService.Profile::id, PeopleService.Profile::fullName));
        return database.sql("select * from transaction_template where register_id = ? order by lower(name)")
                .param(described.id())
                .query((row, n) -> template(row, names, who))
                .list();
    }

    private Template template(ResultSet row, Map<Long, String> names, SignedIn who) throws SQLException {
        Content content = json.readValue(row.getString("content"), Content.class);
        long maker = row.getLong("person_id");
        return new Template(
                row.getLong("id"),
                row.getString("name"),
                content.values(),
                content.lines(),
                names.getOrDefault(maker, "Somebody who is not here any more"),
                maker == who.id() || who.administers(),
                row.getInt("version"));
    }

    /** Keeps a new one. */
    @Transactional
    public Template keep(
            String key, String name, Map<String, JsonNode> values, List<Map<String, JsonNode>> lines, SignedIn who) {
        RegisterForReader described = transactions.mayPost(key, who);
        String content = content(described, values, lines);
        String called = name(name);
        if (all(described, who).size() >= MOST_TEMPLATES) {
            throw Problem.unprocessable(
                    "too-many-templates",
                    "A register has at most " + MOST_TEMPLATES + " templates. Delete some first.");
        }
        long id = named(
                called,
                () -> database.sql("""
                        insert into transaction_template (register_id, name, content, person_id, changed_at)
                        values (?, ?, cast(? as jsonb), ?, ?) returning id""")
                        .params(
                                described.id(),
                                called,
                                content,
                                who.id(),
                                clock.instant().atOffset(ZoneOffset.UTC))
                        .query(Long.class)
                        .single());
        return find(described, id, who);
    }

    /** Changes one. */
    @Transactional
    public Template change(
            String key,
            long id,
            int version,
            String name,
            Map<String, JsonNode> values,
            List<Map<String, JsonNode>> lines,
            SignedIn who) {
        RegisterForReader described = transactions.mayPost(key, who);
        requireMine(find(described, id, who));
        String content = content(described, values, lines);
        String called = name(name);
        int changed = named(
                called,
                () -> database.sql("""
                        update transaction_template set name = ?, content = cast(? as jsonb), changed_at = ?, version = version + 1
                        where id = ? and version = ?""")
                        .params(called, content, clock.instant().atOffset(ZoneOffset.UTC), id, version)
                        .update());
        if (changed == 0) {
            throw new Problem(
                    HttpStatus.CONFLICT,
                    "changed-meanwhile",
                    "Somebody changed this template meanwhile. Nothing of yours was saved; look at theirs first.");
        }
        return find(described, id, who);
    }

    /** Takes one away. */
    @Transactional
    public void delete(String key, long id, SignedIn who) {
        requireMine(find(transactions.mayPost(key, who), id, who));
        database.sql("delete from transaction_template where id = ?").param(id).update();
    }

    private Template find(RegisterForReader described, long id, SignedIn who) {
        return all(described, who).stream()
                .filter(t -> t.id() == id)
                .findFirst()
                .orElseThrow(() -> Problem.notFound("This template"));
    }

    private static void requireMine(Template template) {
        if (!template.mayChange()) {
            throw Problem.forbidden(template.who() + " made this template. They or an administrator change it.");
        }
    }

    private String content(
            RegisterForReader described, Map<String, JsonNode> values, List<Map<String, JsonNode>> lines) {
        TransactionRules rules = described.transactions().orElseThrow();
        List<String> each = new ArrayList<>(rules.each());
        each.add(rules.amount());
        boolean known = rules.shared().containsAll(values.keySet())
                && lines.stream().allMatch(line -> each.containsAll(line.keySet()));
        if (!known) {
            throw Problem.unprocessable(
                    "bad-value",
                    "A template holds the fields that transactions are posted with in “"
                            + described.register().label() + "”, and no others.");
        }
        return json.writeValueAsString(new Content(values, lines));
    }

    private static String name(String name) {
        String called = name.strip();
        if (!VisibleText.isVisible(called) || called.length() > MOST_LETTERS) {
            throw Problem.unprocessable(
                            "no-name", "Give the template a name of at most " + MOST_LETTERS + " characters.")
                    .at("name");
        }
        return called;
    }

    private static <T> T named(String name, java.util.function.Supplier<T> write) {
        try {
            return write.get();
        } catch (DuplicateKeyException e) {
            throw Problem.unprocessable(
                            "name-taken", "There is a template “" + name + "” already. Choose another name.")
                    .at("name");
        }
    }
}
