package dev.zabbet.internal.check;

import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.time.temporal.ChronoField;
import java.time.temporal.ChronoUnit;
import java.time.temporal.IsoFields;
import java.util.Locale;
import org.jspecify.annotations.Nullable;

/**
 * Fields and units of dates and moments. Of an instant only what every time zone agrees on, whole hours and less: its day
 * is the database session's affair.
 */
final class Moments {
    private Moments() {}

    /** Tells whether a function of this name takes a field out of a date or moment. */
    static boolean isField(String name) {
        return switch (name) {
            case "year", "quarter", "month", "week", "iso_week", "day", "hour", "minute", "second" -> true;
            case "doy", "day_of_year", "dow", "day_of_week", "isodow", "iso_day_of_week" -> true;
            default -> false;
        };
    }

    static BigDecimal field(String name, Object value) {
        return BigDecimal.valueOf(
                switch (name) {
                    case "hour" -> time(name, value).getHour();
                    case "minute" -> time(name, value).getMinute();
                    case "second" -> time(name, value).getSecond();
                    case "year" -> date(name, value).getYear();
                    case "quarter" -> date(name, value).get(IsoFields.QUARTER_OF_YEAR);
                    case "month" -> date(name, value).getMonthValue();
                    case "week", "iso_week" -> date(name, value).get(IsoFields.WEEK_OF_WEEK_BASED_YEAR);
                    case "day" -> date(name, value).getDayOfMonth();
                    case "doy", "day_of_year" -> date(name, value).getDayOfYear();
                    case "dow" -> date(name, value).getDayOfWeek().getValue() % 7;
                    case "day_of_week" -> date(name, value).getDayOfWeek().getValue() % 7 + 1; // H2 begins with 1
                    case "isodow", "iso_day_of_week" ->
                        date(name, value).getDayOfWeek().getValue();
                    default -> throw new UnknownSyntaxException("the field " + name);
                });
    }

    /** Returns the beginning of the unit that a date or moment lies in. */
    static Object truncated(String unit, Object value) {
        if (value instanceof Instant instant) {
            ChronoUnit fine = fine(unit);
            if (fine == null) {
                throw new UnknownSyntaxException(
                        "the " + unit + " of an instant, which the session's time zone decides");
            }
            return instant.truncatedTo(fine);
        }
        LocalDateTime moment = value instanceof LocalDateTime dateTime
                ? dateTime
                : date("date_trunc", value).atStartOfDay();
        ChronoUnit fine = fine(unit);
        if (fine != null) {
            return moment.truncatedTo(fine);
        }
        LocalDate day = moment.toLocalDate();
        return (switch (unit.toLowerCase(Locale.ROOT)) {
                    case "day" -> day;
                    case "week" -> day.with(ChronoField.DAY_OF_WEEK, 1);
                    case "month" -> day.withDayOfMonth(1);
                    case "quarter" ->
                        day.withDayOfMonth(1).withMonth(day.getMonthValue() - (day.getMonthValue() - 1) % 3);
                    case "year" -> day.withDayOfYear(1);
                    default -> throw new UnknownSyntaxException("the unit " + unit);
                })
                .atStartOfDay();
    }

    private static @Nullable ChronoUnit fine(String unit) {
        return switch (unit.toLowerCase(Locale.ROOT)) {
            case "hour" -> ChronoUnit.HOURS;
            case "minute" -> ChronoUnit.MINUTES;
            case "second" -> ChronoUnit.SECONDS;
            case "milliseconds" -> ChronoUnit.MILLIS;
            case "microseconds" -> ChronoUnit.MICROS;
            default -> null;
        };
    }

    static LocalDate date(String function, Object value) {
        if (value instanceof LocalDate date) {
            return date;
        }
        if (value instanceof LocalDateTime dateTime) {
            return dateTime.toLocalDate();
        }
        throw new UnknownSyntaxException(function + " of something that is no date");
    }

    private static LocalTime time(String function, Object value) {
        if (value instanceof LocalTime time) {
            return time;
        }
        if (value instanceof LocalDateTime dateTime) {
            return dateTime.toLocalTime();
        }
        if (value instanceof Instant instant && !function.equals("hour")) {
            return instant.atOffset(ZoneOffset.UTC).toLocalTime();
        }
        throw new UnknownSyntaxException(function + " of something that is no time");
    }
}
