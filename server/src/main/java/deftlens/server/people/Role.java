package deftlens.server.people;

/** What a person may do in general. */
public enum Role {
    /** Everything. */
    ADMINISTRATOR,
    /** Reads what is open to them, keeps and shares views. */
    MEMBER,
    /** Reads everything, changes nothing. */
    AUDITOR
}
