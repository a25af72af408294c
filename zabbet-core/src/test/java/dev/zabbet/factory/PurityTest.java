package dev.zabbet.factory;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertNotEquals;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;

/** A value follows from variation, table, ordinal and column, and from nothing else. */
class PurityTest {
    private static final List<DataType> TYPES = List.of(
            DataType.precise(Kind.INTEGER, "INT", 32, 0),
            DataType.precise(Kind.DECIMAL, "NUMERIC(8, 2)", 8, 2),
            DataType.sized(Kind.TEXT, "VARCHAR(40)", 40),
            DataType.of(Kind.DATE, "DATE"),
            DataType.precise(Kind.TIMESTAMP, "TIMESTAMP", 6, 0),
            DataType.of(Kind.BOOLEAN, "BOOLEAN"),
            DataType.of(Kind.UUID, "UUID"),
            DataType.labelled("MOOD", List.of("CALM", "WINDY")));

    @RepeatedTest(30)
    void nothingElseCounts(RepetitionInfo repetition) throws Exception {
        long seed = repetition.getCurrentRepetition();
        Schema schema = schema(new Random(seed), false);
        List<String> tables = schema.tableNames();
        String told = "variation " + seed + ": " + tables;
        List<Row> five = new ArrayList<>(stage(schema, 0).add(5, "t2"));

        Stage inParts = stage(schema, 0);
        List<Row> parts = new ArrayList<>(inParts.add(3, "t2"));
        parts.addAll(inParts.add(2, "t2"));
        assertEquals(five, parts, told);

        // Tables that t2 does not refer to, before it or after it.
        Stage other = stage(schema, 0);
        other.add(4, "t3");
        assertEquals(five, other.add(5, "t2"), told);

        assertNotEquals(five, stage(schema, 7).add(5, "t2"), told);
        assertEquals(
                stage(schema, 7).add(5, "t2"), stage(schema, 0).inVariation(7).add(5, "t2"), told);

        // Another column changes no other column's value.
        Schema wider = schema(new Random(seed), true);
        List<Row> wide = stage(wider, 0).add(5, "t2");
        for (int i = 0; i < 5; i++) {
            for (String column : five.get(i).columns()) {
                assertEquals(five.get(i).get(column), wide.get(i).get(column), told + " " + column);
            }
        }

        ExecutorService threads = Executors.newFixedThreadPool(4);
        try {
            Callable<List<Row>> work = () -> stage(schema, 0).add(5, "t2");
            for (Future<List<Row>> made : threads.invokeAll(List.of(work, work, work, work, work, work))) {
                assertEquals(five, made.get(), told);
            }
        } finally {
            threads.shutdown();
        }
    }

    private static Stage stage(Schema schema, long variation) {
        return Memory.stage(schema).inVariation(variation);
    }

    /** Three tables, of which t2 refers to t1 and t1 to t0, and one by itself. */
    private static Schema schema(Random random, boolean wider) {
        List<Table> tables = new ArrayList<>();
        for (int t = 0; t < 4; t++) {
            String name = "t" + t;
            List<Column> columns = new ArrayList<>();
            columns.add(column("id", DataType.precise(Kind.INTEGER, "BIGINT", 64, 0), Generation.IDENTITY));
            if (wider) {
                columns.add(column("extra", TYPES.get(2), Generation.NONE));
            }
            for (int c = 0; c < 4; c++) {
                columns.add(column("c" + c, TYPES.get(random.nextInt(TYPES.size())), Generation.NONE));
            }
            columns.add(column("low", TYPES.get(0), Generation.NONE));
            columns.add(column("high", TYPES.get(0), Generation.NONE));
            List<Reference> references = new ArrayList<>();
            if (t == 1 || t == 2) {
                columns.add(column("parent_id", DataType.precise(Kind.INTEGER, "BIGINT", 64, 0), Generation.NONE));
                references.add(new Reference(name + "_parent", List.of("parent_id"), "t" + (t - 1), List.of("id")));
            }
            boolean unique = random.nextBoolean();
            tables.add(new Table(
                    name,
                    "",
                    name,
                    columns,
                    Optional.of(new UniqueKey(name + "_key", List.of("id"))),
                    unique ? List.of(new UniqueKey(name + "_unique", List.of("low", "high"))) : List.of(),
                    references,
                    List.of(new Check(name + "_order", "low < high")),
                    TableNature.PLAIN));
        }
        return new Schema(tables);
    }

    private static Column column(String name, DataType type, Generation generation) {
        return new Column(name, name, type, false, Optional.empty(), generation);
    }
}
