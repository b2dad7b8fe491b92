package deftlens.core.statement;

import static deftlens.core.statement.grammar.StatementParser.*;

import deftlens.core.statement.grammar.StatementParser;
import deftlens.core.time.Period;
import deftlens.core.time.Unit;
import java.time.DateTimeException;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.YearMonth;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.function.IntFunction;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.antlr.v4.runtime.ParserRuleContext;
import org.antlr.v4.runtime.Token;

/** Turns the grammar's date phrases into periods. */
final class PeriodReader {

    private static final Pattern ISO = Pattern.compile(
            "(\\d{4})-(?:(\\d{2})(?:-(\\d{2})(?:T(\\d{2}):(\\d{2})(?::(\\d{2})(?:\\.(\\d{1,6}))?)?(Z|[+-]\\d{2}:\\d{2}(?::\\d{2})?)?)?)?|Q(\\d)|H(\\d)|W(\\d{2}))",
            Pattern.CASE_INSENSITIVE);
    private static final Pattern FISCAL = Pattern.compile("FY(\\d{4})(?:-Q(\\d+))?", Pattern.CASE_INSENSITIVE);
    private static final Pattern YEAR = Pattern.compile("\\d{4}");
    private static final DateTimeFormatter MONTH_NAMED = DateTimeFormatter.ofPattern("MMMM yyyy", Locale.ENGLISH);
    private static final DateTimeFormatter SPOKEN = DateTimeFormatter.ofPattern("d MMMM yyyy", Locale.ENGLISH);

    private final Source source;

    PeriodReader(Source source) {
        this.source = source;
    }

    Period period(PeriodContext context) {
        Period from = simple(context.simplePeriod(0));
        return context.simplePeriod().size() == 1 ? from : new Period.Range(from, simple(context.simplePeriod(1)));
    }

    private Period simple(SimplePeriodContext context) {
        Period of = plain(context.plainPeriod());
        try {
            return context.START() != null ? new Period.StartOf(of) : context.END() != null ? new Period.EndOf(of) : of;
        } catch (IllegalArgumentException e) {
            throw source.error(
                    "“" + words(context) + "” is no date phrase: " + e.getMessage() + ".", context, List.of());
        }
    }

    private Period plain(PlainPeriodContext context) {
        try {
            return switch (context) {
                case NearDayContext c ->
                    new Period.NearDay(
                            switch (c.getStart().getType()) {
                                case YESTERDAY -> -1;
                                case TOMORROW -> 1;
                                default -> 0;
                            });
                case CalendarContext c -> calendar(c);
                case RunningContext c -> running(c);
                case FullContext c ->
                    counted(c.count(), n -> new Period.Full(side(c.getStart()), n, unit(c.unitName())));
                case AwayContext c ->
                    counted(
                            c.count(),
                            n -> new Period.Away(
                                    c.AGO() != null ? Period.Side.LAST : Period.Side.NEXT, n, unit(c.unitName())));
                case AskedContext c -> asked(c.ASK().getSymbol());
                case WeekdayOfContext c ->
                    new Period.WeekdayOf(
                            DayOfWeek.of(c.weekday().getStart().getType() - MONDAY + 1),
                            c.THIS() != null
                                    ? Period.Which.THIS
                                    : c.LAST() != null ? Period.Which.LAST : Period.Which.NEXT);
                case LocalDateContext c -> throw ambiguous(c);
                case LiteralContext c -> literal(c);
                default -> throw new IllegalStateException("a date phrase without a reading: " + context.getText());
            };
        } catch (DateTimeException e) {
            throw noSuchDate(context);
        } catch (IllegalArgumentException e) {
            throw source.error(
                    "“" + words(context) + "” is no date phrase: " + e.getMessage() + ".", context, List.of());
        }
    }

    /** A date that looks like one and is none: says which part of it the calendar or the clock does not have. */
    private StatementError noSuchDate(PlainPeriodContext context) {
        String text = words(context);
        Matcher iso = ISO.matcher(text);
        String why = "write a day as 2026-11-23, a time of it as 2026-11-23T14:30";
        if (iso.matches() && iso.group(2) != null) {
            int month = Integer.parseInt(iso.group(2));
            if (month < 1 || month > 12) {
                why = "a month is a number from 01 to 12";
            } else if (iso.group(3) != null) {
                YearMonth of = YearMonth.of(Integer.parseInt(iso.group(1)), month);
                int day = Integer.parseInt(iso.group(3));
                why = day < 1 || day > of.lengthOfMonth()
                        ? MONTH_NAMED.format(of) + " has days 01 to " + of.lengthOfMonth()
                        : "a time of day runs from 00:00 to 23:59:59, an offset from -18:00 to +18:00";
            }
        }
        return source.error("“" + text + "” is no date: " + why + ".", context, List.of());
    }

    private Period calendar(CalendarContext context) {
        Unit unit = unit(context.unitName());
        Period.Which which = Period.Which.valueOf(context.getStart().getText().toUpperCase(Locale.ROOT));
        if (!unit.isCalendar()) {
            List<String> suggestions = unit == Unit.DAY
                    ? List.of(
                            switch (which) {
                                case LAST -> "yesterday";
                                case THIS -> "today";
                                case NEXT -> "tomorrow";
                            })
                    : which == Period.Which.THIS
                            ? List.of()
                            : List.of(which.name().toLowerCase(Locale.ROOT) + " 1 " + unit.singular());
            throw source.error(
                    "“" + words(context) + "” names no period." + Source.didYouMean(suggestions), context, suggestions);
        }
        return new Period.Calendar(which, unit);
    }

    private Period running(RunningContext context) {
        Unit unit = unit(context.unitName());
        if (!unit.isCounted()) {
            String whole = context.getStart().getText().toLowerCase(Locale.ROOT) + " "
                    + context.count().getText() + " full "
                    + (context.count().getText().equals("1") ? unit.singular() : unit.plural());
            throw source.error(
                    "“" + words(context) + "” could begin on any day." + Source.didYouMean(List.of(whole)),
                    context,
                    List.of(whole));
        }
        return counted(context.count(), n -> new Period.Running(side(context.getStart()), n, unit));
    }

    /** A phrase with its count, or with an ask in the count's place. */
    Period counted(CountContext context, IntFunction<Period> phrase) {
        if (context.NUMBER() != null) {
            return phrase.apply(count(context.NUMBER().getSymbol()));
        }
        Ask ask = Ask.of(source, context.ASK().getSymbol());
        if (ask.preset().isEmpty()) {
            return new Period.AskedCount(ask.label(), false, phrase.apply(1));
        }
        int preset = small(ask.preset());
        if (preset < 0) {
            throw source.error(
                    "“" + Source.shortened(ask.preset()) + "” is no count: the default of “" + ask.label()
                            + "” is a whole number here.",
                    context,
                    List.of());
        }
        return new Period.AskedCount(ask.label(), true, phrase.apply(preset));
    }

    private Period asked(Token token) {
        Ask ask = Ask.of(source, token);
        if (ask.preset().isEmpty()) {
            return new Period.Asked(ask.label(), Optional.empty());
        }
        try {
            return new Period.Asked(ask.label(), Optional.of(Reader.period(ask.preset())));
        } catch (StatementError e) {
            throw source.error("In the default of “" + ask.label() + "”: " + e.getMessage(), token, List.of());
        }
    }

    /** A blank as it is written: a label and the text of its default, empty when it has none. */
    record Ask(String label, String preset) {
        static Ask of(Source source, Token token) {
            String inner = token.getText().substring(1, token.getText().length() - 1);
            int sign = inner.indexOf('=');
            String label = (sign < 0 ? inner : inner.substring(0, sign)).strip();
            try {
                Period.requireAskLabel(label);
            } catch (IllegalArgumentException e) {
                throw source.error("This blank cannot be read: " + e.getMessage() + ".", token, List.of());
            }
            String preset = sign < 0 ? "" : inner.substring(sign + 1).strip();
            if (sign >= 0 && preset.isEmpty()) {
                throw source.error(
                        "A default has to follow the = in {" + label + " = …}; leave the = away for none.",
                        token,
                        List.of("{" + label + "}"));
            }
            return new Ask(label, preset);
        }
    }

    private Period literal(LiteralContext context) {
        String text = context.getText();
        Matcher iso = ISO.matcher(text);
        if (iso.matches()) {
            int year = Integer.parseInt(iso.group(1));
            if (iso.group(9) != null) {
                return new Period.Quarter(year, Integer.parseInt(iso.group(9)));
            }
            if (iso.group(10) != null) {
                return new Period.Half(year, Integer.parseInt(iso.group(10)));
            }
            if (iso.group(11) != null) {
                return new Period.Week(year, Integer.parseInt(iso.group(11)));
            }
            int month = Integer.parseInt(iso.group(2));
            if (iso.group(3) == null) {
                return new Period.Month(YearMonth.of(year, month));
            }
            LocalDate day = LocalDate.of(year, month, Integer.parseInt(iso.group(3)));
            if (iso.group(4) == null) {
                return new Period.Day(day);
            }
            int second = iso.group(6) == null ? 0 : Integer.parseInt(iso.group(6));
            int nano = iso.group(7) == null ? 0 : Integer.parseInt((iso.group(7) + "00000000").substring(0, 9));
            LocalTime time = LocalTime.of(Integer.parseInt(iso.group(4)), Integer.parseInt(iso.group(5)), second, nano);
            return new Period.Moment(
                    LocalDateTime.of(day, time),
                    Optional.ofNullable(iso.group(8)).map(o -> ZoneOffset.of(o.toUpperCase(Locale.ROOT))));
        }
        Matcher fiscal = FISCAL.matcher(text);
        if (fiscal.matches()) {
            int year = Integer.parseInt(fiscal.group(1));
            return fiscal.group(2) == null
                    ? new Period.FiscalYear(year)
                    : new Period.FiscalQuarter(year, small(fiscal.group(2)));
        }
        if (YEAR.matcher(text).matches()) {
            return new Period.Year(Integer.parseInt(text));
        }
        throw source.error(
                "“" + Source.shortened(text)
                        + "” is no date. Write a day as 2026-11-23, a month as 2026-11, a quarter as 2026-Q4, a year as 2026.",
                context,
                List.of());
    }

    /** A date in a country's manner: refused, with every reading it could have. */
    private StatementError ambiguous(LocalDateContext context) {
        String[] parts = context.getText().split("[/.-]");
        List<LocalDate> readings = new ArrayList<>();
        if (parts[0].length() >= 3) {
            reading(parts[0], parts[1], parts[2], readings);
        } else {
            reading(parts[2], parts[1], parts[0], readings);
            reading(parts[2], parts[0], parts[1], readings);
        }
        List<String> suggestions =
                readings.stream().map(LocalDate::toString).distinct().toList();
        String meanings = String.join(
                " or ",
                readings.stream()
                        .distinct()
                        .map(d -> d + " (" + SPOKEN.format(d) + ")")
                        .toList());
        String message = "“" + Source.shortened(context.getText()) + "” "
                + (suggestions.size() == 2
                        ? "can be read two ways. Write " + meanings + "."
                        : suggestions.size() == 1
                                ? "is not how a date is written here. Write " + meanings + "."
                                : "is no date. Write a day as year-month-day: 2026-11-23.");
        return source.error(message, context, suggestions);
    }

    private static void reading(String year, String month, String day, List<LocalDate> into) {
        if (year.length() > 4 || month.length() > 2 || day.length() > 2) {
            return;
        }
        int y = Integer.parseInt(year);
        try {
            into.add(LocalDate.of(year.length() <= 2 ? 2000 + y : y, Integer.parseInt(month), Integer.parseInt(day)));
        } catch (DateTimeException e) {
            // Not a date in this order: not one of the readings.
        }
    }

    Unit unit(UnitNameContext context) {
        String base = switch (context.getStop().getType()) {
            case MINUTE -> "MINUTE";
            case HOUR -> "HOUR";
            case DAY -> "DAY";
            case WEEK -> "WEEK";
            case MONTH -> "MONTH";
            case QUARTER -> "QUARTER";
            case HALF -> "HALF";
            default -> "YEAR";
        };
        String name =
                context.FISCAL() != null ? "FISCAL_" + base : context.WORKING() != null ? "WORKING_" + base : base;
        try {
            return Unit.valueOf(name);
        } catch (IllegalArgumentException e) {
            throw source.error(
                    "There is no such unit as “" + words(context)
                            + "”. “fiscal” goes with quarter and year, “working” with days.",
                    context,
                    List.of());
        }
    }

    int count(Token number) {
        int count = small(number.getText());
        if (count < 0) {
            throw source.error(
                    "“" + Source.shortened(number.getText()) + "” is no count: write a whole number up to "
                            + Period.MAX_COUNT + ".",
                    number,
                    List.of());
        }
        return count;
    }

    /** A short whole number, or -1. */
    static int small(String digits) {
        return digits.matches("\\d{1,6}") ? Integer.parseInt(digits) : -1;
    }

    private static Period.Side side(Token token) {
        return token.getType() == LAST ? Period.Side.LAST : Period.Side.NEXT;
    }

    /** The words of a context, with the spaces that the grammar left out. */
    static String words(ParserRuleContext context) {
        StringBuilder words = new StringBuilder();
        collect(context, words);
        return Source.shortened(words.toString());
    }

    private static void collect(org.antlr.v4.runtime.tree.ParseTree tree, StringBuilder into) {
        if (tree.getChildCount() == 0) {
            into.append(into.isEmpty() ? "" : " ").append(tree.getText());
        }
        for (int i = 0; i < tree.getChildCount(); i++) {
            collect(tree.getChild(i), into);
        }
    }

    /** The grammar's own numbers for the tokens a date phrase can begin with. */
    static boolean canBegin(java.util.Set<Integer> expected) {
        return expected.contains(StatementParser.TODAY) && expected.contains(StatementParser.ISO_DATE);
    }
}
