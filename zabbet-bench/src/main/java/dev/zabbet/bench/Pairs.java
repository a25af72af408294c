package dev.zabbet.bench;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Random;

/** A failed expectation on rows without a key: who is paired with whom, beside a plain count of equal rows. */
final class Pairs {
    private static final int ROUNDS = 9;

    private Pairs() {}

    /** A line that somebody wrote into a log, which has no key. */
    record LogLine(String said, String byWhom, int minute, int room) {}

    /** Returns what was measured for so many rows, of which some are expected with one other value. */
    static String measure(int rows, int altered) throws Exception {
        Random random = new Random(7);
        List<Row> stored = new ArrayList<>();
        for (int i = 0; i < rows; i++) {
            stored.add(Row.row("said", "line " + random.nextInt(rows))
                    .with("by_whom", "warden " + random.nextInt(40))
                    .with("minute", random.nextInt(1440))
                    .with("room", random.nextInt(30)));
        }
        List<Row> expected = new ArrayList<>(stored);
        for (int i = 0; i < altered; i++) {
            int at = i * (rows / altered);
            expected.set(at, expected.get(at).with("room", 100 + i));
        }
        Stage stage = Memory.stage(Schema.of(LogLine.class));
        Factory<Row> lines = Factory.forTable("log_line");
        for (String column : stored.get(0).columns()) {
            lines = lines.invent(
                    column, values -> stored.get((int) values.ordinal() - 1).get(column));
        }
        stage.addMany(rows, lines);
        List<Double> ours = new ArrayList<>();
        List<Double> plain = new ArrayList<>();
        for (int i = 0; i < ROUNDS; i++) {
            plain.add(Bench.seconds(() -> count(stage.rows("log_line"), expected)));
            ours.add(Bench.seconds(() -> {
                try {
                    stage.expect("log_line").holdsOnly(expected.toArray());
                    throw new IllegalStateException("the rows differ");
                } catch (AssertionError e) {
                    String report = String.valueOf(e.getMessage()).replace(",", "");
                    if (!report.contains(altered + " of " + rows)) {
                        throw new IllegalStateException(e);
                    }
                }
            }));
        }
        return String.format(
                Locale.ROOT,
                "pair %,d rows without a key, %d of them altered, in memory: %.0f ms with the report; equal rows counted by"
                        + " hand %.1f ms",
                rows,
                altered,
                Bench.median(ours) * 1000,
                Bench.median(plain) * 1000);
    }

    private static void count(List<Row> stored, List<Row> expected) {
        Map<Row, Integer> counts = new HashMap<>();
        stored.forEach(row -> counts.merge(row, 1, Integer::sum));
        expected.forEach(row -> counts.merge(row, -1, Integer::sum));
        if (counts.values().stream().allMatch(n -> n == 0)) {
            throw new IllegalStateException("the rows differ");
        }
    }
}
