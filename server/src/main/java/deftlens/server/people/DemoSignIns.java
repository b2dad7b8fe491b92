package deftlens.server.people;

import java.util.List;

/** The sign-ins that the sign-in page offers; there is such a bean in demo mode only. */
public interface DemoSignIns {

    /** One sign-in with what the person is. */
    record SignIn(String name, String fullName, String about, String password) {}

    /** The sign-ins in their order. */
    List<SignIn> offered();
}
