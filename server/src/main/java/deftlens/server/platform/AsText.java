package deftlens.server.platform;

import com.fasterxml.jackson.annotation.JacksonAnnotationsInside;
import com.fasterxml.jackson.annotation.JsonFormat;
import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * An id, which is written as text: readers of JSON hold a number in a double, and a whole number beyond 2^53 then becomes
 * another one. A number is understood as well.
 */
@JacksonAnnotationsInside
@JsonFormat(shape = JsonFormat.Shape.STRING)
@Target({ElementType.FIELD, ElementType.METHOD, ElementType.PARAMETER, ElementType.RECORD_COMPONENT})
@Retention(RetentionPolicy.RUNTIME)
public @interface AsText {

    /** What such a text looks like. */
    String PATTERN = "-?[0-9]{1,19}";
}
