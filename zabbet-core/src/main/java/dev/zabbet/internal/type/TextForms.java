package dev.zabbet.internal.type;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.value.Text;
import java.net.URI;
import java.net.URL;
import java.time.Duration;
import java.time.Year;
import java.time.YearMonth;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.Currency;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TimeZone;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** Types of the JDK that are stored as text or a number, in the form that persistence providers give them. */
final class TextForms {
    /** A way to write values and to read them again, and some that every place knows. */
    private record Form(Function<Object, Object> write, Function<String, Object> read, List<Object> some) {}

    private static final Map<Class<?>, Form> FORMS = Map.of(
            Currency.class,
                    new Form(
                            value -> ((Currency) value).getCurrencyCode(),
                            Currency::getInstance,
                            List.of("EUR", "CHF", "NOK", "USD")),
            Locale.class,
                    new Form(
                            Object::toString,
                            text -> Locale.forLanguageTag(text.replace('_', '-')),
                            List.of("de", "fr", "it", "nb")),
            ZoneId.class,
                    new Form(
                            Object::toString,
                            ZoneId::of,
                            List.of("Europe/Zurich", "Europe/Vienna", "Europe/Oslo", "UTC")),
            ZoneOffset.class, new Form(Object::toString, ZoneOffset::of, List.of("Z", "+01:00", "+02:00")),
            TimeZone.class,
                    new Form(
                            value -> ((TimeZone) value).getID(),
                            TimeZone::getTimeZone,
                            List.of("Europe/Zurich", "Europe/Vienna", "UTC")),
            URL.class,
                    new Form(
                            Object::toString,
                            TextForms::url,
                            List.of("https://edelgrat.example/", "https://steinkar.example/rooms")),
            URI.class,
                    new Form(
                            Object::toString,
                            URI::create,
                            List.of("https://edelgrat.example/", "https://steinkar.example/rooms")),
            Duration.class,
                    new Form(
                            value -> ((Duration) value).toNanos(),
                            text -> Duration.ofNanos(new java.math.BigDecimal(text).longValue()),
                            List.of(3_600_000_000_000L, 5_400_000_000_000L)),
            Year.class, new Form(value -> ((Year) value).getValue(), Year::parse, List.of(2031, 2032)),
            YearMonth.class, new Form(Object::toString, YearMonth::parse, List.of("2031-07", "2031-08")));

    private TextForms() {}

    private static URL url(String text) {
        try {
            return URI.create(text).toURL();
        } catch (java.net.MalformedURLException e) {
            throw new IllegalArgumentException(e);
        }
    }

    /** Returns what columns of a type may hold, some of it; empty if the type is none of these. */
    static List<Object> some(Class<?> type) {
        Form form = FORMS.get(type);
        return form == null ? List.of() : form.some();
    }

    static Optional<Conversion> of(Class<?> type) {
        Form form = FORMS.get(type);
        if (form == null) {
            return Optional.empty();
        }
        return Optional.of(new Conversion() {
            @Override
            public @Nullable Object toColumn(@Nullable Object value) {
                return type.isInstance(value) ? form.write().apply(value) : value;
            }

            @Override
            public @Nullable Object toProperty(@Nullable Object stored) {
                if (stored == null || type.isInstance(stored)) {
                    return stored;
                }
                try {
                    return form.read().apply(stored.toString());
                } catch (RuntimeException e) {
                    throw new ZabbetException(
                            Text.of(stored) + " is no " + type.getSimpleName()
                                    + ". Say what the property is to hold: with(…).",
                            e);
                }
            }
        });
    }
}
