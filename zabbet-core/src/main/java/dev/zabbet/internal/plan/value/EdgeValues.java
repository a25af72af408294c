package dev.zabbet.internal.plan.value;

import dev.zabbet.internal.check.Allowed;
import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.internal.check.PerTable;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/** Values at the edges of what a column can hold: bounds of checks, zero, leap days, short and long text, other scripts. */
public final class EdgeValues {
    private static final List<String> SCRIPTS = List.of("Łódź Žďár", "Ελλάδα", "雪の山小屋", "Ærø Ñandú", "Ижевск");
    private static final List<String> PLAIN = List.of(
            "email",
            "phone",
            "mobile",
            "url",
            "link",
            "code",
            "key",
            "country",
            "iban",
            "hash",
            "token",
            "currency",
            "language",
            "zip",
            "postal");
    private static final int LONG = 2_000;

    private final Table table;
    private final Column column;
    private final List<Object> values = new ArrayList<>();

    private EdgeValues(Table table, Column column) {
        this.table = table;
        this.column = column;
    }

    private record Known(String column) {}

    private record Values(List<Object> values) {}

    /** Returns one of the edges, by a draw; empty if the column has none that are known. */
    public static Optional<Object> of(Table table, Column column, long draw) {
        List<Object> values = PerTable.of(
                        table,
                        new Known(column.name()),
                        Values.class,
                        () -> new Values(new EdgeValues(table, column).find()))
                .values();
        return values.isEmpty()
                ? Optional.empty()
                : Optional.of(values.get((int) Math.floorMod(draw, (long) values.size())));
    }

    private List<Object> find() {
        Allowed allowed = Allowed.of(table, column);
        if (!allowed.choices().isEmpty()) {
            return allowed.choices(); // a list has no other edges than its elements
        }
        switch (column.type().kind()) {
            case INTEGER -> whole(allowed);
            case DECIMAL -> decimals(allowed);
            case FLOAT -> values.addAll(List.of(0.0, -1.0, 1.0));
            case BOOLEAN -> values.addAll(List.of(true, false));
            case DATE ->
                values.addAll(List.of(
                        LocalDate.of(2028, 2, 29),
                        LocalDate.of(2031, 12, 31),
                        LocalDate.of(2032, 1, 1),
                        LocalDate.of(2031, 7, 1),
                        LocalDate.of(1999, 12, 31)));
            case TIMESTAMP ->
                values.addAll(List.of(
                        LocalDateTime.of(2028, 2, 29, 12, 0),
                        LocalDateTime.of(2031, 12, 31, 23, 59, 59),
                        LocalDateTime.of(2032, 1, 1, 0, 0),
                        LocalDateTime.of(2031, 3, 30, 2, 30)));
            case TIME -> values.addAll(List.of(LocalTime.MIDNIGHT, LocalTime.of(23, 59, 59)));
            case TEXT -> texts(allowed);
            default -> {}
        }
        return values.stream().filter(this::keepsChecks).toList();
    }

    /** Where a check speaks of other columns as well, or is not understood, nothing is known of an edge. */
    private boolean keepsChecks(Object value) {
        return table.checks().stream()
                .map(check -> CheckCondition.of(table, check))
                .filter(check -> check.columns().contains(column.name()))
                .allMatch(check ->
                        check.columns().size() == 1 && check.evaluate(at -> value) == CheckCondition.Verdict.KEPT);
    }

    private void whole(Allowed allowed) {
        BigDecimal least = allowed.least();
        BigDecimal most = allowed.most();
        for (BigDecimal bound : least == null || most == null
                ? List.of(BigDecimal.ZERO, BigDecimal.ONE)
                : List.of(least, most, least.add(BigDecimal.ONE))) {
            boolean inside =
                    (least == null || bound.compareTo(least) >= 0) && (most == null || bound.compareTo(most) <= 0);
            BigInteger number = bound.toBigInteger();
            if (inside && number.bitLength() < 16) {
                values.add(number.longValue());
            }
        }
    }

    private void decimals(Allowed allowed) {
        BigDecimal least = allowed.least();
        BigDecimal most = allowed.most();
        int scale = Math.max(0, column.type().scale());
        List<BigDecimal> bounds = new ArrayList<>(List.of(BigDecimal.ZERO, BigDecimal.ONE.movePointLeft(scale)));
        if (least != null) {
            bounds.add(least);
        }
        if (most != null) {
            bounds.add(most);
        }
        bounds.stream()
                .filter(bound ->
                        (least == null || bound.compareTo(least) >= 0) && (most == null || bound.compareTo(most) <= 0))
                .map(bound -> bound.setScale(scale, java.math.RoundingMode.HALF_UP))
                .forEach(values::add);
    }

    /** Text that others read as more than text, an address for example, stays as it is. */
    private void texts(Allowed allowed) {
        String name = column.name().toLowerCase(Locale.ROOT);
        boolean plain = PLAIN.stream().anyMatch(name::contains)
                || column.type().kind() != Kind.TEXT
                || table.checks().stream()
                        .anyMatch(check -> check.text().toLowerCase(Locale.ROOT).contains(name));
        if (plain || allowed.shortest() > 1) {
            return;
        }
        int room = column.type().length() == DataType.UNLIMITED
                ? LONG
                : Math.min(column.type().length(), LONG);
        for (String script : SCRIPTS) {
            if (script.length() <= room) {
                values.add(script);
            }
        }
        values.add("x".substring(0, Math.min(1, room)));
        values.add("Long ".repeat(room / 5 + 1).substring(0, room).replaceFirst(" $", "g"));
    }
}
