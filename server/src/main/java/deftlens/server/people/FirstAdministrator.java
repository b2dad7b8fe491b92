package deftlens.server.people;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.SecureRandom;
import java.util.Base64;
import java.util.List;
import java.util.Optional;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.ApplicationArguments;
import org.springframework.boot.ApplicationRunner;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.core.annotation.Order;
import org.springframework.stereotype.Component;
import org.springframework.transaction.event.TransactionalEventListener;

/**
 * Where nobody can sign in yet, makes an administrator with a random password and leaves both in the data directory. The
 * password has to be changed at the first sign-in, and the file goes with it.
 */
@Component
@Order(100)
class FirstAdministrator implements ApplicationRunner {

    private static final Logger LOG = LoggerFactory.getLogger(FirstAdministrator.class);
    private static final String NAME = "administrator";

    private final PeopleService people;
    private final ApplicationEventPublisher events;
    private final String data;

    FirstAdministrator(PeopleService people, ApplicationEventPublisher events, @Value("${deft.data:}") String data) {
        this.people = people;
        this.events = events;
        this.data = data;
    }

    @Override
    public void run(ApplicationArguments arguments) throws IOException {
        if (!data.isBlank() && people.isEmpty()) {
            make();
        }
    }

    void make() throws IOException {
        byte[] random = new byte[12];
        new SecureRandom().nextBytes(random);
        String password = Base64.getUrlEncoder().withoutPadding().encodeToString(random);
        Path file = file();
        Files.deleteIfExists(file);
        Files.createFile(file, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
        Files.writeString(file, "  " + NAME + "   " + password + "\n");
        people.addPerson(NAME, "Administrator", password, Role.ADMINISTRATOR, Optional.empty(), List.of());
        people.requirePasswordChange(NAME);
        events.publishEvent(new InstallationBegun());
        LOG.info("made a first administrator; the sign-in is in {}", file);
    }

    /** The file is of no use once the password in it is not. */
    @TransactionalEventListener
    void changed(PasswordChanged change) {
        if (change.name().equals(NAME) && !data.isBlank()) {
            try {
                Files.deleteIfExists(file());
            } catch (IOException e) {
                LOG.warn("{} could not be deleted; its password works no more", file(), e);
            }
        }
    }

    private Path file() {
        return Path.of(data, "first-administrator");
    }
}
