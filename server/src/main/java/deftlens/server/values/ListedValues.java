package deftlens.server.values;

import deftlens.core.condition.Operand;
import deftlens.core.field.Field;
import deftlens.core.field.Option;
import java.time.ZoneId;
import java.util.Optional;

/** Values of a list that is known: choices, and people by their sign-in names. */
final class ListedValues extends TextValues {

    static final ListedValues LISTED = new ListedValues();

    private static final int SHOWN_OPTIONS = 6;

    @Override
    public Optional<Operand> pasted(Field field, String text) {
        return Optional.of(
                new Operand.Text(field.option(text).map(Option::value).orElse(text)));
    }

    @Override
    Object kept(Field field, Object value) throws Unfitting {
        String text = (String) value;
        Optional<Option> known = field.option(text);
        if (known.isPresent()) {
            return known.get().value();
        }
        if (field.options().isEmpty()) {
            return super.kept(field, text);
        }
        throw new Unfitting("“" + text + "” is no value of " + field.label() + "; it has "
                + String.join(
                        ", ",
                        field.options().stream()
                                .limit(SHOWN_OPTIONS)
                                .map(Option::label)
                                .toList())
                + (field.options().size() > SHOWN_OPTIONS ? ", …" : "") + ".");
    }

    @Override
    String shown(Field field, Object value, ZoneId zone, boolean offsets) {
        return field.option((String) value).map(Option::label).orElse((String) value);
    }
}
