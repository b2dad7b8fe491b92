package deftlens.server.imports;

import deftlens.server.people.SignedIn;
import deftlens.server.records.WayBack;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import java.io.IOException;
import java.util.List;
import java.util.Optional;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Files brought into registers: sent, looked at, brought in, watched, stopped. */
@RestController
@RequestMapping("/api")
class ImportsController {

    private final ImportService imports;

    ImportsController(ImportService imports) {
        this.imports = imports;
    }

    /** A file to be brought in: how it is read, where its rows go, and how. */
    record StartedImport(
            @NotNull FileLooks.FileReading reading,
            @NotNull ImportPlans.Into into,
            @NotNull ImportPlan plan,
            Optional<String> keepAs) {}

    /** Takes a file, as the body of the request, and looks at it. */
    @PostMapping(path = "/files", consumes = MediaType.APPLICATION_OCTET_STREAM_VALUE)
    @ResponseStatus(HttpStatus.CREATED)
    FileLooks.FileLook receive(
            @RequestParam String name,
            @RequestParam Optional<String> token,
            HttpServletRequest request,
            @AuthenticationPrincipal SignedIn who)
            throws IOException {
        return imports.receive(name, token, request.getInputStream(), who);
    }

    /** How far the reading of a file is. */
    @GetMapping("/files/{token}")
    ImportService.FileProgress progress(@PathVariable String token, @AuthenticationPrincipal SignedIn who) {
        return imports.progress(token, who);
    }

    /** Forgets a file; if it is being read, that stops. */
    @DeleteMapping("/files/{token}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void forget(@PathVariable String token, @AuthenticationPrincipal SignedIn who) {
        imports.forget(token, who);
    }

    /** Looks at a file again, read in another way. */
    @PostMapping("/files/{token}/look")
    FileLooks.FileLook look(
            @PathVariable String token,
            @RequestBody FileLooks.FileReading reading,
            @AuthenticationPrincipal SignedIn who) {
        return imports.look(token, reading, who);
    }

    /** Stops the reading of a file; how it was read before stays. */
    @DeleteMapping("/files/{token}/look")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void stopLooking(@PathVariable String token, @AuthenticationPrincipal SignedIn who) {
        imports.stopLooking(token, who);
    }

    /** Begins to bring a file in. */
    @PostMapping("/files/{token}/import")
    @ResponseStatus(HttpStatus.ACCEPTED)
    ImportRun.ShownRun start(
            @PathVariable String token,
            @Valid @RequestBody StartedImport started,
            @AuthenticationPrincipal SignedIn who) {
        return imports.start(token, started.reading(), started.into(), started.plan(), started.keepAs(), who);
    }

    /** How an import goes, or went. */
    @GetMapping("/imports/{id}")
    ImportRun.ShownRun shown(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        return imports.shown(id, who);
    }

    /** Stops an import; nothing of it is written. */
    @DeleteMapping("/imports/{id}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void cancel(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        imports.cancel(id, who);
    }

    /** What taking an import back would do now. */
    @GetMapping("/imports/{id}/back")
    WayBack.Extent extent(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        return imports.extent(id, who);
    }

    /**
     * Begins to take an import back: what it added goes, what it changed or replaced is as it was. Records that were changed
     * since stay as they are.
     */
    @PostMapping("/imports/{id}/back")
    @ResponseStatus(HttpStatus.ACCEPTED)
    ImportRun.ShownRun takeBack(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        return imports.takeBack(id, who);
    }

    /** The latest imports. */
    @GetMapping("/imports")
    List<ImportRun.ShownRun> latest(@RequestParam Optional<String> register, @AuthenticationPrincipal SignedIn who) {
        return imports.latest(register, who);
    }

    /** The plans kept for a register, to bring the next file in the same way. */
    @GetMapping("/registers/{key}/import-plans")
    List<ImportPlans.KeptPlan> plans(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        return imports.plans(key, who);
    }

    /** Keeps a plan under a name. */
    @PutMapping("/registers/{key}/import-plans/{name}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void keep(
            @PathVariable String key,
            @PathVariable String name,
            @RequestBody ImportPlan plan,
            @AuthenticationPrincipal SignedIn who) {
        imports.keep(key, name, plan, who);
    }
}
