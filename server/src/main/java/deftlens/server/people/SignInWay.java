package deftlens.server.people;

import org.springframework.security.config.annotation.web.builders.HttpSecurity;

/** A way to sign in beside name and password, added to the server's security by the feature that brings it. */
public interface SignInWay {

    /** Adds what it needs. */
    void addTo(HttpSecurity http) throws Exception;
}
