package deftlens.server.linking;

/** Whether what goes to and from a linked server is encrypted (TLS). */
public enum Encryption {
    /** Without it, nothing is sent. */
    REQUIRED("require"),
    /** Where the other server offers it. */
    PREFERRED("prefer"),
    /** Never; for servers on the same machine. */
    OFF("disable");

    private final String sslMode;

    Encryption(String sslMode) {
        this.sslMode = sslMode;
    }

    /** PostgreSQL's name for it, in connection strings and in the driver. */
    String sslMode() {
        return sslMode;
    }
}
