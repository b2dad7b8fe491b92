package deftlens.server.checking;

import com.fasterxml.jackson.annotation.JsonUnwrapped;
import deftlens.server.checking.StatementReader.Look;
import deftlens.server.lanes.AsksRecords;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.ReadsOnly;
import deftlens.server.question.QuestionRequest;
import deftlens.server.registers.RegisterCatalogue;
import java.util.Optional;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** Reading a statement: its tree, its words, its windows, its blanks, and what the checker notices about it. */
@RestController
@RequestMapping("/api")
class CheckingController {

    private final RegisterCatalogue registers;
    private final StatementReader statements;

    CheckingController(RegisterCatalogue registers, StatementReader statements) {
        this.registers = registers;
        this.statements = statements;
    }

    /**
     * A question in words or as a tree.
     *
     * @param name the name of the view it is kept in, or is about to be
     * @param purpose what that view is for
     * @param records whether the findings that need a look at the records are wanted; they are unless this is false
     * @param ifSmall whether the records are looked at only where the register is small, so that it takes no more than a moment; where it
     *     is large, {@code checked} is false
     */
    record StatementRequest(
            @JsonUnwrapped QuestionRequest question,
            Optional<String> name,
            Optional<String> purpose,
            Optional<Boolean> records,
            Optional<Boolean> ifSmall) {}

    /** Reads a question: its one spelling, its tree, its windows, its blanks, its words, and what the checker notices about it. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/registers/{key}/statement")
    StatementReader.Read statement(
            @PathVariable String key,
            @RequestBody StatementRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = "X-Question", required = false) Optional<String> name) {
        Look look = request.ifSmall().orElse(false) ? Look.IF_SMALL : Look.ANY;
        return statements.read(
                registers.get(key, who),
                request.question(),
                new StatementReader.Kept(request.name(), request.purpose()),
                request.records().orElse(true) ? look : Look.NONE,
                who,
                name);
    }
}
