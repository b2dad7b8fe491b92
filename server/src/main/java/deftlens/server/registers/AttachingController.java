package deftlens.server.registers;

import deftlens.server.people.SignedIn;
import jakarta.validation.Valid;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Registers made from what is there already: tables attached in place, and registers read together. */
@RestController
@RequestMapping("/api")
class AttachingController {

    private final Attaching attaching;
    private final TableShapes shapes;
    private final Combining combining;
    private final RegisterAttention attention;

    AttachingController(Attaching attaching, TableShapes shapes, Combining combining, RegisterAttention attention) {
        this.attaching = attaching;
        this.shapes = shapes;
        this.combining = combining;
        this.attention = attention;
    }

    /** The tables and database views that can be attached. */
    @GetMapping("/attachable")
    List<Attaching.Attachable> attachable(@AuthenticationPrincipal SignedIn who) {
        return attaching.attachable(who);
    }

    /** What a table can be attached as: fields, types, choices, keys and comments from the database. */
    @GetMapping("/attachable/{schema}/{table}")
    Attaching.TableProposal propose(
            @PathVariable String schema, @PathVariable String table, @AuthenticationPrincipal SignedIn who) {
        return attaching.propose(schema, table, who);
    }

    /** Attaches a table; nothing is written to it. */
    @PostMapping("/attached")
    @ResponseStatus(HttpStatus.CREATED)
    RegisterDescription attach(@Valid @RequestBody Attaching.Attached wanted, @AuthenticationPrincipal SignedIn who) {
        return RegisterDescription.of(attaching.attach(wanted, who));
    }

    /**
     * How a table is taken.
     *
     * @param renamed the new names of columns, by the old ones
     */
    record Taking(Optional<Map<String, String>> renamed) {}

    /** Takes the table behind a register as it is now. */
    @PostMapping("/registers/{key}/shape")
    RegisterDescription accept(
            @PathVariable String key,
            @RequestBody(required = false) Optional<Taking> taking,
            @AuthenticationPrincipal SignedIn who) {
        return RegisterDescription.of(
                shapes.accept(key, taking.flatMap(Taking::renamed).orElse(Map.of()), who));
    }

    /** What registers need to be seen to, as it was found last. */
    @GetMapping("/register-attention")
    List<RegisterAttention.RegisterNote> attention(@AuthenticationPrincipal SignedIn who) {
        return attention.all(who);
    }

    /** Makes a register in which several others are read together. */
    @PostMapping("/combined")
    @ResponseStatus(HttpStatus.CREATED)
    RegisterDescription combine(@Valid @RequestBody Combining.Combined wanted, @AuthenticationPrincipal SignedIn who) {
        return RegisterDescription.of(combining.combine(wanted, who));
    }

    /** Reads the fields of a combined register from other fields of the same members. */
    @PutMapping("/combined/{key}")
    RegisterDescription combineAnew(
            @PathVariable String key,
            @Valid @RequestBody Combining.Combined wanted,
            @AuthenticationPrincipal SignedIn who) {
        return RegisterDescription.of(combining.change(key, wanted, who));
    }
}
