package deftlens.demo;

import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import java.util.List;

/** Short ways to write down the fields of the demo world. */
final class Fields {

    private Fields() {}

    static FieldDefinition field(String key, String label, FieldType type, boolean required, boolean shown) {
        return new FieldDefinition(key, label, type, required, shown, List.of());
    }

    static FieldDefinition choice(String key, String label, boolean required, boolean shown, List<String> options) {
        return new FieldDefinition(key, label, FieldType.CHOICE, required, shown, options);
    }

    static FieldDefinition calculated(String key, String label, FieldType type, String calculation) {
        return FieldDefinition.calculated(key, label, type, false, calculation);
    }

    static FieldDefinition tags(boolean shown, List<String> options) {
        return new FieldDefinition("tags", "Tags", FieldType.TAGS, true, shown, options).correctable();
    }
}
