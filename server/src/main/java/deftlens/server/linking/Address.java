package deftlens.server.linking;

import jakarta.validation.constraints.Max;
import jakarta.validation.constraints.Min;
import jakarta.validation.constraints.NotBlank;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Pattern;
import jakarta.validation.constraints.Size;

/**
 * How another PostgreSQL server is reached.
 *
 * @param host a host name or an IP address
 * @param port 1 to 65535
 * @param database the name of its database
 * @param role the role to sign in as; it needs no right but to read
 */
public record Address(
        @NotBlank
        @Pattern(
                regexp = "[A-Za-z0-9][A-Za-z0-9._:-]{0,252}",
                message = "is a host name or an IP address, without http:// and without a port")
        String host,

        @Min(1) @Max(65535) int port,

        @NotBlank @Size(max = 63) String database,

        @NotBlank @Size(max = 63) String role,

        @NotNull Encryption encryption) {

    /** The server and database as people write them. */
    String words() {
        return host + ":" + port + "/" + database;
    }
}
