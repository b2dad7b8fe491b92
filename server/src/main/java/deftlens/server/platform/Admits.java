package deftlens.server.platform;

import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * Whom a call lets in beside the usual: somebody who is signed in, with a password of their own choice, and, unless the call
 * only reads, who may change things. A call without this annotation lets nobody else in. On a class it holds for all of its
 * calls that have none of their own.
 */
@Retention(RetentionPolicy.RUNTIME)
@Target({ElementType.METHOD, ElementType.TYPE})
public @interface Admits {

    /** Whether somebody may call who is not signed in. */
    boolean strangers() default false;

    /** Whether somebody may call whose password was chosen by somebody else and has to be changed first. */
    boolean beforePasswordChange() default false;

    /** Whether somebody may call who only reads, although the call changes something. */
    boolean readers() default false;

    /** Whether an administrator may call who looks as the person. */
    boolean watchers() default true;
}
