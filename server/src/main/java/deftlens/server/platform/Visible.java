package deftlens.server.platform;

import static java.lang.annotation.ElementType.FIELD;
import static java.lang.annotation.ElementType.METHOD;
import static java.lang.annotation.ElementType.PARAMETER;
import static java.lang.annotation.ElementType.RECORD_COMPONENT;

import jakarta.validation.Constraint;
import jakarta.validation.ConstraintValidator;
import jakarta.validation.ConstraintValidatorContext;
import jakarta.validation.Payload;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/** A name of which people see something, as {@link VisibleText} has it; nothing at all is refused by other constraints. */
@Target({FIELD, METHOD, PARAMETER, RECORD_COMPONENT})
@Retention(RetentionPolicy.RUNTIME)
@Constraint(validatedBy = Visible.Validator.class)
public @interface Visible {

    /** What is said of a name that is not seen. */
    String message() default "needs a name that can be seen";

    /** Unused here; Bean Validation wants it. */
    Class<?>[] groups() default {};

    /** Unused here; Bean Validation wants it. */
    Class<? extends Payload>[] payload() default {};

    /** Looks for anything that is seen. */
    final class Validator implements ConstraintValidator<Visible, String> {
        @Override
        public boolean isValid(String name, ConstraintValidatorContext context) {
            return name == null || VisibleText.isVisible(name);
        }
    }
}
