package deftlens.server.registers;

import deftlens.core.calculation.Calculation;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import jakarta.persistence.EntityManager;
import jakarta.persistence.Query;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.ObjectMapper;

/**
 * Calculated fields that questions add to those of a register, for themselves alone. They are kept under a handle made of what they are,
 * which follows the key of the register: {@code moves~3f9a0c77d2be18450a51}. Whoever asks for the register of such a key gets the register with
 * these fields in it.
 */
@Component
public class AddedFields {

    /** What stands between the key of a register and a handle; no key has it. */
    private static final char BETWEEN = '~';

    /** Letters of a handle: 80 bits, so that no two sets of fields ever share one. */
    private static final int LETTERS = 20;

    private final EntityManager entities;
    private final ObjectMapper json;

    AddedFields(EntityManager entities, ObjectMapper json) {
        this.entities = entities;
        this.json = json;
    }

    /**
     * A calculated field beside those of its register.
     *
     * @param key begins with an underscore, as no field of a register does
     * @param label what people read
     * @param type what comes out of the calculation
     * @param calculation in the language, over the fields of the register and the added ones beside it
     */
    public record AddedField(String key, String label, FieldType type, String calculation) {}

    /**
     * Fields as they are kept.
     *
     * @param handle what they are found by, with the register they belong to
     */
    public record Added(String handle, List<AddedField> fields) {

        public Added {
            fields = List.copyOf(fields);
        }
    }

    /** The key of a register, without what is added to it. */
    public static String register(String key) {
        int at = key.indexOf(BETWEEN);
        return at < 0 ? key : key.substring(0, at);
    }

    /** What is added to the register of a key, as it is found by; none for a register as it is. */
    public static Optional<String> handle(String key) {
        int at = key.indexOf(BETWEEN);
        return at < 0 ? Optional.empty() : Optional.of(key.substring(at + 1));
    }

    /** The key of a register with what is added to it. */
    public static String key(String register, Optional<String> handle) {
        return register + handle.map(h -> BETWEEN + h).orElse("");
    }

    /** A register as statements about it are read that were written when it had these fields beside its own. */
    public static Register among(Register register, List<AddedField> fields) {
        List<Field> all = new ArrayList<>(register.fields());
        fields.stream()
                .filter(f -> register.named(f.key()).isEmpty()
                        && register.named(f.label()).isEmpty())
                .forEach(f -> all.add(new Field(
                        f.key(),
                        f.label(),
                        f.type(),
                        Calculation.column(f.key()),
                        false,
                        List.of(),
                        List.of(),
                        Optional.empty())));
        return register.with(all);
    }

    /** Keeps fields, unless the same are kept already. */
    @Transactional
    public Added keep(long register, List<AddedField> fields) {
        String written = json.writeValueAsString(fields);
        String handle = digest(written);
        entities.createNativeQuery("insert into added_fields (register_id, handle, fields)"
                        + " values (?1, ?2, cast(?3 as jsonb)) on conflict do nothing")
                .setParameter(1, register)
                .setParameter(2, handle)
                .setParameter(3, written)
                .executeUpdate();
        return new Added(handle, fields);
    }

    /** The fields of a register that are kept under a handle. */
    @Transactional(readOnly = true)
    Optional<Added> find(long register, String handle) {
        return written("register_id = ?2 and handle = ?1", handle, register)
                .map(written -> new Added(handle, fields(written)));
    }

    /** The fields under a handle, of whatever register; none for none. */
    @Transactional(readOnly = true)
    public List<AddedField> fields(Optional<String> handle) {
        return handle.flatMap(h -> written("handle = ?1", h)).map(this::fields).orElse(List.of());
    }

    @SuppressWarnings("unchecked")
    private Optional<String> written(String where, Object... values) {
        Query query = entities.createNativeQuery(
                "select cast(fields as text) from added_fields where " + where + " limit 1", String.class);
        for (int i = 0; i < values.length; i++) {
            query.setParameter(i + 1, values[i]);
        }
        return ((List<String>) query.getResultList()).stream().findFirst();
    }

    private List<AddedField> fields(String written) {
        return List.of(json.readValue(written, AddedField[].class));
    }

    private static String digest(String text) {
        try {
            byte[] hash = MessageDigest.getInstance("SHA-256").digest(text.getBytes(StandardCharsets.UTF_8));
            return HexFormat.of().formatHex(hash).substring(0, LETTERS);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }
}
