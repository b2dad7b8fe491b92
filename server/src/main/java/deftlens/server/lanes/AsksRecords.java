package deftlens.server.lanes;

import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * A call that puts a question to the records. It is tried for a short while on the quick lane, and goes on in the slow one
 * when it turns out to take longer ({@link QuestionLanes}). It changes nothing, so it can be made again.
 */
@Retention(RetentionPolicy.RUNTIME)
@Target(ElementType.METHOD)
public @interface AsksRecords {}
