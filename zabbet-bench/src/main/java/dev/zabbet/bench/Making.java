package dev.zabbet.bench;

import com.sun.management.ThreadMXBean;
import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Load;
import dev.zabbet.store.RewindPoint;
import dev.zabbet.store.RowSource;
import dev.zabbet.store.Store;
import dev.zabbet.store.Watch;
import java.lang.management.ManagementFactory;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.function.Consumer;
import javax.sql.DataSource;

/** Makes rows that are stored nowhere, beside code written by hand that makes the same columns. */
final class Making {
    private static final int ROUNDS = 7;

    /** The values that were made, so that making them is not left away. */
    private static long sum;

    private Making() {}

    static String measure(Schema schema, int rows) {
        Stage stage = Stage.on(clock -> new Nowhere(schema));
        Factory<Row> stays = Factory.forTable("stay")
                .ref("room_number", Row.row("hut_id", 1L).with("number", 1));
        List<Double> ours = new ArrayList<>();
        List<Double> plain = new ArrayList<>();
        long bytes = 0;
        long plainBytes = 0;
        for (int round = 0; round < ROUNDS; round++) {
            long allocated = allocated();
            long begun = System.nanoTime();
            stage.addMany(rows, stays);
            ours.add((System.nanoTime() - begun) / 1e9);
            bytes = allocated() - allocated;
            allocated = allocated();
            begun = System.nanoTime();
            byHand(rows);
            plain.add((System.nanoTime() - begun) / 1e9);
            plainBytes = allocated() - allocated;
        }
        ours.sort(null);
        plain.sort(null);
        return String.format(
                java.util.Locale.ROOT,
                "make %,d stays, no store: %,.0f rows/s and %d bytes a row; by hand %,.0f rows/s and %d bytes a row (%d)",
                rows,
                rows / ours.get(ROUNDS / 2),
                bytes / rows,
                rows / plain.get(ROUNDS / 2),
                plainBytes / rows,
                sum % 10);
    }

    private static long allocated() {
        return ((ThreadMXBean) ManagementFactory.getThreadMXBean()).getCurrentThreadAllocatedBytes();
    }

    private static void byHand(int rows) {
        Random random = new Random(1);
        LocalDate today = LocalDate.of(2031, 7, 1);
        LocalDateTime now = today.atTime(8, 0);
        for (int i = 0; i < rows; i++) {
            Object[] row = {
                (long) i,
                1L,
                1L,
                today.plusDays(1 + random.nextInt(60)),
                (long) (1 + random.nextInt(14)),
                "REQUESTED",
                BigDecimal.valueOf(100 + random.nextInt(9900), 2),
                now
            };
            for (Object value : row) {
                sum += value.hashCode();
            }
        }
    }

    /** Takes every value and keeps none. */
    private static final class Nowhere implements Store {
        private final Schema schema;
        private long next = 1;

        Nowhere(Schema schema) {
            this.schema = schema;
        }

        @Override
        public Schema schema() {
            return schema;
        }

        @Override
        public String description() {
            return "nowhere";
        }

        @Override
        public long reserve(Table table, int count) {
            next += count;
            return next - count;
        }

        @Override
        public void store(Load load) {
            for (RowSource rows : load.inserts()) {
                int columns = rows.columns().size();
                for (int row = 0; row < rows.size(); row++) {
                    for (int column = 0; column < columns; column++) {
                        Object value = rows.value(row, column);
                        sum += value == null ? 0 : value.hashCode();
                    }
                }
            }
        }

        @Override
        public void read(Table table, Condition where, Consumer<Row> reader) {}

        @Override
        public void clear(List<Table> tables) {}

        @Override
        public Watch watch() {
            throw new UnsupportedOperationException();
        }

        @Override
        public RewindPoint mark() {
            throw new UnsupportedOperationException();
        }

        @Override
        public void rewind(RewindPoint point) {
            throw new UnsupportedOperationException();
        }

        @Override
        public Optional<DataSource> dataSource() {
            return Optional.empty();
        }

        @Override
        public void close() {}
    }
}
