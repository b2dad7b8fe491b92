package deftlens.server.transactions;

import deftlens.server.people.SignedIn;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.JsonNode;

/** Transactions of registers that declare them: posted in lines that add up to zero, looked at, posted again as their opposite. */
@RestController
@RequestMapping("/api/registers/{key}")
class TransactionsController {

    private static final String IDEMPOTENCY = "Idempotency-Key";

    private final TransactionsService transactions;
    private final TransactionTemplates templates;

    TransactionsController(TransactionsService transactions, TransactionTemplates templates) {
        this.transactions = transactions;
        this.templates = templates;
    }

    /**
     * A transaction that is to be posted. Its number, and those of its lines, are given by the server.
     *
     * @param values the fields that are said once, by key: dates, reference
     * @param lines the fields of each line, by key, its amount among them
     * @param reason why; it stands in the history of each line
     */
    record NewTransaction(
            @NotNull Map<String, JsonNode> values,

            @NotNull @Size(max = TransactionsService.MOST_LINES)
            List<Map<String, JsonNode>> lines,

            Optional<@Size(max = 500) String> reason) {}

    /**
     * How a transaction is taken back by its opposite.
     *
     * @param values those of the fields said once that are to be other than in the transaction; its dates are today where they are not
     *     given
     * @param reason why, in at most 500 characters
     */
    record Reversal(
            @NotNull Map<String, JsonNode> values,
            @NotNull @Size(max = 2_000) String reason) {}

    /**
     * What is kept as a template.
     *
     * @param name what it is called, in at most 120 characters; no other template of the register is called so
     * @param values the fields that are said once, as far as they are always the same
     * @param lines the fields of the lines, as far as they are
     */
    record NewTemplate(
            @NotNull String name,
            @NotNull Map<String, JsonNode> values,

            @NotNull @Size(min = 1, max = TransactionsService.MOST_LINES)
            List<Map<String, JsonNode>> lines) {}

    /**
     * Posts a transaction: all of its lines, or none, and only where their amounts add up to zero to the last unit ({@code
     * not-balanced}, with the {@code difference}). With an {@code Idempotency-Key}, asking again gives the first answer.
     */
    @PostMapping("/transactions")
    @ResponseStatus(HttpStatus.CREATED)
    TransactionsService.Posted postTransaction(
            @PathVariable String key,
            @Valid @RequestBody NewTransaction asked,
            @RequestHeader(name = IDEMPOTENCY, required = false) Optional<String> idempotency,
            @AuthenticationPrincipal SignedIn who) {
        return transactions.post(key, asked.values(), asked.lines(), asked.reason(), idempotency, who);
    }

    /** The transaction that a record is a line of, with all its lines that the reader sees. */
    @GetMapping("/transactions/{id}")
    TransactionsService.ShownTransaction transaction(
            @PathVariable String key, @PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        return transactions.transaction(key, id, who);
    }

    /**
     * Posts the opposite of the whole transaction that a record is a line of, once. With an {@code Idempotency-Key}, asking again gives
     * the first answer.
     */
    @PostMapping("/transactions/{id}/reverse")
    @ResponseStatus(HttpStatus.CREATED)
    TransactionsService.Posted reverseTransaction(
            @PathVariable String key,
            @PathVariable long id,
            @Valid @RequestBody Reversal asked,
            @RequestHeader(name = IDEMPOTENCY, required = false) Optional<String> idempotency,
            @AuthenticationPrincipal SignedIn who) {
        return transactions.reverse(key, id, asked.values(), asked.reason(), idempotency, who);
    }

    /** The templates of a register's transactions, by name, for those who may post. */
    @GetMapping("/transaction-templates")
    List<TransactionTemplates.Template> transactionTemplates(
            @PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        return templates.all(key, who);
    }

    /** Keeps a template. */
    @PostMapping("/transaction-templates")
    @ResponseStatus(HttpStatus.CREATED)
    TransactionTemplates.Template keepTemplate(
            @PathVariable String key, @Valid @RequestBody NewTemplate asked, @AuthenticationPrincipal SignedIn who) {
        return templates.keep(key, asked.name(), asked.values(), asked.lines(), who);
    }

    /**
     * Changes a template; its maker and administrators do.
     *
     * @param version the version that the change was made from
     */
    @PutMapping("/transaction-templates/{template}")
    TransactionTemplates.Template changeTemplate(
            @PathVariable String key,
            @PathVariable long template,
            @RequestParam int version,
            @Valid @RequestBody NewTemplate asked,
            @AuthenticationPrincipal SignedIn who) {
        return templates.change(key, template, version, asked.name(), asked.values(), asked.lines(), who);
    }

    /** Takes a template away; its maker and administrators do. */
    @DeleteMapping("/transaction-templates/{template}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void deleteTemplate(@PathVariable String key, @PathVariable long template, @AuthenticationPrincipal SignedIn who) {
        templates.delete(key, template, who);
    }
}
