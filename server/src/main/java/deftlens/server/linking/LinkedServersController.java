package deftlens.server.linking;

import deftlens.server.people.SignedIn;
import deftlens.server.platform.Visible;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotBlank;
import jakarta.validation.constraints.NotEmpty;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.util.List;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Other PostgreSQL servers whose tables can be attached as registers. */
@RestController
@RequestMapping("/api/linked-servers")
class LinkedServersController {

    private final LinkedServers servers;

    LinkedServersController(LinkedServers servers) {
        this.servers = servers;
    }

    /** How a server is reached and signed in to. */
    record Access(
            @NotNull @Valid Address address,
            @NotNull @Size(max = 200) String password) {}

    /** A server to be linked. */
    record Link(
            @NotBlank @Visible @Size(max = 60) String label,
            @NotNull @Valid Address address,
            @NotNull @Size(max = 200) String password,
            @NotEmpty List<LinkedServers.Named> tables) {}

    /** The linked servers and their tables. */
    @GetMapping
    List<LinkedServers.Linked> all(@AuthenticationPrincipal SignedIn who) {
        return servers.all(who);
    }

    /** Signs in to a server and lists its tables; nothing is kept. */
    @PostMapping("/look")
    LinkedServers.Look look(@Valid @RequestBody Access access, @AuthenticationPrincipal SignedIn who) {
        return servers.look(access.address(), access.password(), who);
    }

    /** Links a server: the chosen tables can be attached from now on. */
    @PostMapping
    @ResponseStatus(HttpStatus.CREATED)
    LinkedServers.Linked link(@Valid @RequestBody Link wanted, @AuthenticationPrincipal SignedIn who) {
        return servers.link(wanted.label(), wanted.address(), wanted.password(), wanted.tables(), who);
    }

    /** Lists the tables of a linked server. */
    @GetMapping("/{key}/look")
    LinkedServers.Look again(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        return servers.look(key, who);
    }

    /** Chooses the tables of a linked server, and reads anew what they look like. */
    @PutMapping("/{key}/tables")
    LinkedServers.Linked choose(
            @PathVariable String key,
            @RequestBody List<LinkedServers.Named> tables,
            @AuthenticationPrincipal SignedIn who) {
        return servers.choose(key, tables, who);
    }

    /** Changes how a linked server is reached and signed in to; the new way is tried first. */
    @PutMapping("/{key}/access")
    LinkedServers.Linked reach(
            @PathVariable String key, @Valid @RequestBody Access access, @AuthenticationPrincipal SignedIn who) {
        return servers.reach(key, access.address(), access.password(), who);
    }

    /** Forgets a linked server that no register is read from. */
    @DeleteMapping("/{key}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void unlink(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        servers.unlink(key, who);
    }
}
