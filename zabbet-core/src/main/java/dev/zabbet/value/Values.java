package dev.zabbet.value;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.type.MethodName;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Vocabulary;
import dev.zabbet.row.Row;
import dev.zabbet.type.Property;
import java.math.BigDecimal;
import java.time.Clock;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.UUID;
import org.jspecify.annotations.Nullable;

/**
 * Invented values for one column of one row. A value depends only on the variation, the table, the row's ordinal, the
 * column and the order of the calls made here, and on nothing else: the same test gives the same values for ever.
 *
 * <p>Handed to the functions of {@code Factory.invent}; not to be kept beyond the call, and not thread-safe.
 */
public abstract class Values {
    private @Nullable LocalDate today;

    /** For Zabbet's own use: tests are handed an instance. */
    public Values() {}

    /** {@return the next of the numbers that look random, any long being as likely as any other} */
    public abstract long draw();

    /** {@return the stage's clock} */
    public abstract Clock clock();

    /** {@return the type whose properties can be asked for; {@link Row} where there is none} */
    public abstract Class<?> type();

    /**
     * {@return the value of another column of the row, or of a property}
     *
     * @param column the column's name
     */
    public abstract @Nullable Object other(String column);

    /** {@return the row's number in its table, from 1; where the database numbers the rows, it is that number} */
    public abstract long ordinal();

    /**
     * {@return a whole number}
     *
     * @param least the least one
     * @param most the greatest one, itself included
     * @throws IllegalArgumentException if {@code least} is greater than {@code most}
     */
    public int between(int least, int most) {
        return (int) between((long) least, (long) most);
    }

    /**
     * {@return a whole number}
     *
     * @param least the least one
     * @param most the greatest one, itself included
     * @throws IllegalArgumentException if {@code least} is greater than {@code most}
     */
    public long between(long least, long most) {
        if (least > most) {
            throw new IllegalArgumentException("between(" + least + ", " + most + "): the first is the greater one.");
        }
        long width = most - least + 1;
        return width <= 0 ? draw() : least + Math.floorMod(draw(), width);
    }

    /**
     * {@return an amount of money with two digits after the point, both bounds included}
     *
     * @param least the least amount, in whole units
     * @param most the greatest amount, in whole units
     */
    public BigDecimal money(int least, int most) {
        return BigDecimal.valueOf(between(least * 100L, most * 100L), 2);
    }

    /**
     * {@return true once in {@code n} rows on average}
     *
     * @param n how rare it is: 1 for always
     */
    public boolean oneIn(int n) {
        return between(1, n) == 1;
    }

    /**
     * {@return one of the choices}
     *
     * @param <V> the type of the value
     * @param first a value
     * @param others more values
     */
    @SafeVarargs
    public final <V extends @Nullable Object> V pick(V first, V... others) {
        int at = between(0, others.length);
        return at == 0 ? first : others[at - 1];
    }

    /**
     * {@return one of the choices}
     *
     * @param <V> the type of the value
     * @param choices the values to choose from; at least one
     */
    public <V> V pick(List<V> choices) {
        return choices.get(between(0, choices.size() - 1));
    }

    /** {@return a given name and a family name} */
    public String personName() {
        return pick(Vocabulary.GIVEN) + " " + pick(Vocabulary.FAMILY);
    }
    /** {@return an e-mail address under {@code example.org} (reserved by RFC 2606), different for each row} */
    public String email() {
        String name = pick(Vocabulary.GIVEN) + "." + pick(Vocabulary.FAMILY);
        return name.toLowerCase(Locale.ROOT) + ordinal() + "@example.org";
    }

    /** {@return a telephone number from the range 555-0100 to 555-0199, which is kept for made-up numbers} */
    public String phone() {
        return "+1 555 01" + String.format(Locale.ROOT, "%02d", between(0, 99));
    }

    /** {@return the name of a place} */
    public String place() {
        return pick(Vocabulary.PLACES);
    }

    /** {@return a street and a number} */
    public String street() {
        return pick(Vocabulary.STREETS) + " " + between(1, 99);
    }

    /** {@return the name of a firm} */
    public String company() {
        return pick(Vocabulary.FIRMS) + " " + pick(Vocabulary.FORMS);
    }

    /** {@return a word in lower case} */
    public String word() {
        return pick(Vocabulary.WORDS);
    }

    /** {@return a few words that begin with a capital letter and end with a full stop} */
    public String sentence() {
        StringBuilder sentence = new StringBuilder(word());
        for (int i = between(3, 6); i > 0; i--) {
            sentence.append(' ').append(word());
        }
        sentence.setCharAt(0, Character.toUpperCase(sentence.charAt(0)));
        return sentence.append('.').toString();
    }

    /**
     * {@return one of the choices, some more often than others}
     *
     * @param <V> the type of the value
     * @param weights how often, against one another; at least 0, and not all 0
     * @throws IllegalArgumentException if no weight is greater than 0
     */
    public <V> V weighted(Map<V, Integer> weights) {
        long total = weights.values().stream().mapToLong(Integer::longValue).sum();
        if (total < 1 || weights.values().stream().anyMatch(weight -> weight < 0)) {
            throw new IllegalArgumentException(
                    "weighted(" + weights + "): at least one weight must be above 0, and none below.");
        }
        // The order of a map may differ from run to run, that of its keys' names does not.
        List<Map.Entry<V, Integer>> choices = new ArrayList<>(weights.entrySet());
        choices.sort(Comparator.comparing(entry -> String.valueOf(entry.getKey())));
        long at = between(0, total - 1);
        for (Map.Entry<V, Integer> choice : choices) {
            at -= choice.getValue();
            if (at < 0) {
                return choice.getKey();
            }
        }
        throw new IllegalStateException("the weights add up to less than their sum");
    }

    /** {@return three to five sentences} */
    public String paragraph() {
        StringBuilder paragraph = new StringBuilder(sentence());
        for (int i = between(2, 4); i > 0; i--) {
            paragraph.append(' ').append(sentence());
        }
        return paragraph.toString();
    }

    /**
     * {@return a date, both bounds included}
     *
     * @param first the earliest, included
     * @param last the latest, included
     */
    public LocalDate date(LocalDate first, LocalDate last) {
        return LocalDate.ofEpochDay(between(first.toEpochDay(), last.toEpochDay()));
    }

    /**
     * {@return a time of day at a full minute, both bounds included}
     *
     * @param first the earliest, included
     * @param last the latest, included
     */
    public LocalTime time(LocalTime first, LocalTime last) {
        return LocalTime.ofSecondOfDay(between(first.toSecondOfDay() / 60, last.toSecondOfDay() / 60) * 60L);
    }

    /**
     * {@return a point in time at a full second, both bounds included}
     *
     * @param first the earliest, included
     * @param last the latest, included
     */
    public Instant instant(Instant first, Instant last) {
        return Instant.ofEpochSecond(between(first.getEpochSecond(), last.getEpochSecond()));
    }

    /**
     * {@return bytes}
     *
     * @param count how many, at least 0
     */
    public byte[] bytes(int count) {
        byte[] bytes = new byte[count];
        for (int i = 0; i < count; i++) {
            bytes[i] = (byte) draw();
        }
        return bytes;
    }

    /** {@return a random identifier (version 4, RFC 9562)} */
    public UUID uuid() {
        long high = (draw() & ~0xF000L) | 0x4000L;
        long low = draw() >>> 2 | 0x8000000000000000L;
        return new UUID(high, low);
    }

    /** {@return the stage's present time} */
    public Instant now() {
        return clock().instant();
    }

    /** {@return the stage's present date at UTC} */
    public LocalDate today() {
        LocalDate known = today;
        if (known == null) {
            known = LocalDate.ofInstant(clock().instant(), ZoneOffset.UTC);
            today = known;
        }
        return known;
    }

    /**
     * {@return the value of another property of the same row}
     *
     * @param <R> the type that the property belongs to
     * @param <V> the type of the value
     * @param property the property, as a method reference such as {@code Stay::nights}
     * @throws ZabbetException if the two depend on each other
     */
    @SuppressWarnings({"unchecked", "NullAway"}) // V is the property's own type and says itself whether it may be null
    public <R, V extends @Nullable Object> V get(Property<R, V> property) {
        MethodName name = MethodName.of(property, "values.get(property)");
        if (type() == Row.class) {
            throw new ZabbetException("A factory of rows knows no properties; ask for the column by name.");
        }
        TypeShape<?> shape = TypeShape.of(type());
        var prop = shape.find(name.method()).orElseGet(() -> shape.require(name.property()));
        try {
            return (V) JavaValue.to(prop.type(), other(prop.name()));
        } catch (InexactValueException e) {
            throw new ZabbetException("Property " + prop.name() + " cannot be read: " + e.clause() + ".");
        }
    }

    /**
     * {@return the value of another column of the same row; null if it is left empty or to the database}
     *
     * @param column the column's name
     * @throws ZabbetException if the two depend on each other
     */
    public @Nullable Object get(String column) {
        return other(column);
    }
}
