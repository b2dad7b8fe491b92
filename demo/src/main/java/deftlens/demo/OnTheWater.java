package deftlens.demo;

import static deftlens.demo.Fields.choice;
import static deftlens.demo.Fields.field;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.registers.RegisterForReader.Member;
import java.util.List;
import java.util.Map;

/** Berth stays and closures read together: everything that takes up room on the water. */
final class OnTheWater {

    static final String KEY = "water";

    private OnTheWater() {}

    static RegisterDefinition register() {
        return new RegisterDefinition(
                        KEY,
                        "On the water",
                        "entry",
                        "begins",
                        "place",
                        true,
                        List.of(
                                FieldDefinition.member("source", "Record", List.of("Stay", "Closure")),
                                field("number", "Number", FieldType.TEXT, true, true)
                                        .identifying(),
                                field("place", "Place", FieldType.TEXT, true, true)
                                        .described("The berth, lock or channel.")
                                        .useful(),
                                choice("site", "Site", true, true, Staff.SITES).useful(),
                                field("begins", "Begins", FieldType.MOMENT, true, true),
                                field("ends", "Ends", FieldType.MOMENT, false, true),
                                field("what", "What", FieldType.TEXT, true, true)
                                        .described("The vessel, or the reason of the closure.")
                                        .useful(),
                                FieldDefinition.span("taken", "Taken", new Field.Ends("begins", "ends", false))))
                .described("Berth stays and closures, read together.");
    }

    static List<Member> members() {
        return List.of(
                new Member(
                        "stays",
                        "Stay",
                        Map.of(
                                "number", "number", "place", "berth", "site", "site", "begins", "arrives", "ends",
                                "leaves", "what", "vessel")),
                new Member(
                        "closures",
                        "Closure",
                        Map.of(
                                "number",
                                "number",
                                "place",
                                "place",
                                "site",
                                "site",
                                "begins",
                                "closed_from",
                                "ends",
                                "closed_until",
                                "what",
                                "reason")));
    }
}
