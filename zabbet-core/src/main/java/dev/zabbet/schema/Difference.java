package dev.zabbet.schema;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.function.Function;

/**
 * One thing in which two schemas differ.
 *
 * @param place where, as {@code "stay.price"} or {@code "stay, check stay_nights"}
 * @param here what the first schema has there; {@code "nothing"} if it has nothing
 * @param there what the second has there; {@code "nothing"} if it has nothing
 */
public record Difference(String place, String here, String there) {
    private static final String NOTHING = "nothing";

    /** Returns {@code "stay.price: NUMERIC(8, 2) here, NUMERIC(10, 2) there"}. */
    @Override
    public String toString() {
        return place + ": " + here + " here, " + there + " there";
    }

    /** Compares two schemas by what a person sees: tables and columns by name, keys and references by what they say. */
    static List<Difference> between(Schema here, Schema there) {
        List<Difference> differences = new ArrayList<>();
        compare(
                differences,
                "table ",
                byName(here.tables(), Table::name),
                byName(there.tables(), Table::name),
                t -> t.name() + " with " + t.columns().size() + " columns",
                (name, a, b) -> tables(differences, a, b));
        return List.copyOf(differences);
    }

    private static void tables(List<Difference> differences, Table a, Table b) {
        compare(
                differences,
                a.name() + ".",
                byName(a.columns(), Column::name),
                byName(b.columns(), Column::name),
                Difference::describe,
                (name, x, y) -> note(differences, a.name() + "." + name, describe(x), describe(y)));
        note(differences, a.name() + ", key", String.join(", ", a.keyColumns()), String.join(", ", b.keyColumns()));
        sets(differences, a.name() + ", unique", a.uniques(), b.uniques(), Difference::describe);
        sets(differences, a.name() + ", reference", a.references(), b.references(), Difference::describe);
        sets(differences, a.name() + ", check", a.checks(), b.checks(), c -> c.name() + " " + c.text());
        sets(
                differences,
                a.name() + ", trigger",
                a.nature().triggers(),
                b.nature().triggers(),
                t -> t);
        note(
                differences,
                a.name() + ", form",
                a.nature().form().name(),
                b.nature().form().name());
    }

    private static String describe(Column column) {
        return column.type().sqlName()
                + (column.type().labels().isEmpty() ? "" : column.type().labels())
                + (column.nullable() ? "" : " NOT NULL")
                + column.defaultText().map(d -> " DEFAULT " + d).orElse("")
                + (column.generation() == Generation.NONE ? "" : " " + column.generation());
    }

    private static String describe(UniqueKey key) {
        return "(" + String.join(", ", key.columns()) + ")" + (key.expressions().isEmpty() ? "" : key.expressions())
                + (key.nullsDistinct() ? "" : " NULLS NOT DISTINCT")
                + key.condition().map(c -> " WHERE " + c).orElse("");
    }

    private static String describe(Reference reference) {
        return reference.describe() + " (" + String.join(", ", reference.targetColumns()) + ") on delete "
                + reference.onDelete() + ", on update " + reference.onUpdate() + ", " + reference.match()
                + ", deferral "
                + reference.deferral();
    }

    /** What is done with two things of one name. */
    @FunctionalInterface
    private interface Both<E> {
        void compare(String name, E a, E b);
    }

    private static <E> Map<String, E> byName(List<E> all, Function<E, String> name) {
        Map<String, E> named = new LinkedHashMap<>();
        all.forEach(e -> named.put(name.apply(e), e));
        return named;
    }

    private static <E> void compare(
            List<Difference> differences,
            String prefix,
            Map<String, E> here,
            Map<String, E> there,
            Function<E, String> describe,
            Both<E> both) {
        here.forEach((name, a) -> {
            E b = there.get(name);
            if (b == null) {
                differences.add(new Difference(prefix + name, describe.apply(a), NOTHING));
            } else {
                both.compare(name, a, b);
            }
        });
        there.forEach((name, b) -> {
            if (!here.containsKey(name)) {
                differences.add(new Difference(prefix + name, NOTHING, describe.apply(b)));
            }
        });
    }

    private static <E> void sets(
            List<Difference> differences, String place, List<E> here, List<E> there, Function<E, String> describe) {
        List<String> a = here.stream().map(describe).toList();
        List<String> b = there.stream().map(describe).toList();
        a.stream().filter(x -> !b.contains(x)).forEach(x -> differences.add(new Difference(place, x, NOTHING)));
        b.stream().filter(x -> !a.contains(x)).forEach(x -> differences.add(new Difference(place, NOTHING, x)));
    }

    private static void note(List<Difference> differences, String place, String here, String there) {
        if (!Objects.equals(here, there)) {
            differences.add(new Difference(place, here.isEmpty() ? NOTHING : here, there.isEmpty() ? NOTHING : there));
        }
    }
}
