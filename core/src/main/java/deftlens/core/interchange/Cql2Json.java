package deftlens.core.interchange;

import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;

/** The JSON encoding, as plain maps and lists. */
final class Cql2Json {

    static final String OPEN = "..";
    private static final int MAX_DEPTH = 100;

    private Cql2Json() {}

    static Object print(Cql2Expression expression) {
        return switch (expression) {
            case Cql2Expression.Op(String name, List<Cql2Expression> arguments, String where) ->
                map("op", name, "args", arguments.stream().map(Cql2Json::print).toList());
            case Cql2Expression.Property(String name, String where) -> Map.of("property", name);
            case Cql2Expression.Text(String value, String where) -> value;
            case Cql2Expression.Number(BigDecimal value, String where) -> value;
            case Cql2Expression.Truth(boolean value, String where) -> value;
            case Cql2Expression.Date(LocalDate value, String where) -> Map.of("date", value.toString());
            case Cql2Expression.Timestamp(Instant value, String where) -> Map.of("timestamp", value.toString());
            case Cql2Expression.Interval(var from, var to, String where) ->
                Map.of("interval", List.of(end(from), end(to)));
            case Cql2Expression.Array(List<Cql2Expression> items, String where) ->
                items.stream().map(Cql2Json::print).toList();
        };
    }

    private static Object end(Optional<Cql2Expression> end) {
        return end.map(e -> switch (e) {
                    case Cql2Expression.Date(LocalDate value, String where) -> (Object) value.toString();
                    case Cql2Expression.Timestamp(Instant value, String where) -> value.toString();
                    default -> print(e);
                })
                .orElse(OPEN);
    }

    private static Map<String, Object> map(String one, Object first, String two, Object second) {
        Map<String, Object> map = new LinkedHashMap<>();
        map.put(one, first);
        map.put(two, second);
        return map;
    }

    static Cql2Expression read(Object json) {
        return read(json, "", 1);
    }

    private static Cql2Expression read(Object json, String path, int depth) {
        if (depth > MAX_DEPTH) {
            throw new Cql2.NotCarried(path, "The filter is nested more than " + MAX_DEPTH + " deep.");
        }
        return switch (json) {
            case String text -> new Cql2Expression.Text(text, path);
            case BigDecimal number -> new Cql2Expression.Number(number, path);
            case Boolean truth -> new Cql2Expression.Truth(truth, path);
            case List<?> list -> new Cql2Expression.Array(items(list, path, depth), path);
            case Map<?, ?> map -> object(map, path, depth);
            case null ->
                throw new Cql2.NotCarried(path, "null stands where a value, a property or an operator should.");
            default -> throw new Cql2.NotCarried(path, "This is neither a value, a property nor an operator.");
        };
    }

    private static List<Cql2Expression> items(List<?> list, String path, int depth) {
        List<Cql2Expression> items = new ArrayList<>();
        for (int i = 0; i < list.size(); i++) {
            items.add(read(list.get(i), path + "/" + i, depth + 1));
        }
        return items;
    }

    private static Cql2Expression object(Map<?, ?> map, String path, int depth) {
        if (map.get("op") instanceof String name && map.get("args") instanceof List<?> arguments && map.size() == 2) {
            return new Cql2Expression.Op(canonical(name), items(arguments, path + "/args", depth), path);
        }
        if (map.size() == 1) {
            if (map.get("property") instanceof String name) {
                return new Cql2Expression.Property(name, path);
            }
            if (map.get("date") instanceof String day) {
                return date(day, path);
            }
            if (map.get("timestamp") instanceof String instant) {
                return timestamp(instant, path);
            }
            if (map.get("interval") instanceof List<?> ends && ends.size() == 2) {
                return new Cql2Expression.Interval(
                        end(ends.get(0), path + "/interval/0", depth),
                        end(ends.get(1), path + "/interval/1", depth),
                        path);
            }
        }
        throw new Cql2.NotCarried(
                path, "An object here has “op” and “args”, or one of “property”, “date”, “timestamp” and “interval”.");
    }

    private static Optional<Cql2Expression> end(Object end, String path, int depth) {
        if (OPEN.equals(end)) {
            return Optional.empty();
        }
        return Optional.of(end instanceof String text ? instant(text, path) : read(end, path, depth + 1));
    }

    static String canonical(String name) {
        String lower = name.toLowerCase(Locale.ROOT);
        return lower.equals("isnull") ? "isNull" : lower;
    }

    /** A date or a timestamp, whichever the text is. */
    static Cql2Expression instant(String text, String path) {
        return text.indexOf('T') < 0 && text.indexOf('t') < 0 ? date(text, path) : timestamp(text, path);
    }

    static Cql2Expression date(String text, String path) {
        try {
            LocalDate day = LocalDate.parse(text);
            if (day.getYear() < 1 || day.getYear() > 9999) {
                throw new DateTimeException("years run from 0001 to 9999");
            }
            return new Cql2Expression.Date(day, path);
        } catch (DateTimeException e) {
            throw new Cql2.NotCarried(path, "“" + text + "” is no date (RFC 3339: 2026-11-23).");
        }
    }

    static Cql2Expression timestamp(String text, String path) {
        try {
            Instant instant = OffsetDateTime.parse(text).toInstant();
            if (instant.getNano() % 1_000 != 0) {
                throw new DateTimeException("a moment is kept to the microsecond");
            }
            return new Cql2Expression.Timestamp(instant, path);
        } catch (DateTimeException e) {
            throw new Cql2.NotCarried(
                    path, "“" + text + "” is no timestamp to the microsecond (RFC 3339: 2026-11-23T14:30:00Z).");
        }
    }
}
