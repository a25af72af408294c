package dev.zabbet;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.fake.ComparedCalls;
import dev.zabbet.internal.fake.CallLog;
import dev.zabbet.internal.fake.Comparison;
import dev.zabbet.internal.fake.Fakes;
import dev.zabbet.internal.memory.MemoryStore;
import dev.zabbet.internal.text.Words;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.RewindPoint;
import java.util.function.Function;
import javax.sql.DataSource;

/**
 * A contract check for a data-access implementation in one line: the fake of its interface and the implementation are
 * driven by the same generated calls, and have to give the same results, refuse alike, and leave the same rows.
 */
public final class SameBehaviour {
    private static final int ROWS = 3;

    private SameBehaviour() {}

    /**
     * Drives a fake and a real implementation with generated calls. Rows are arranged first, and all is rewound in the end.
     *
     * <p>Arguments are made of values that are stored and others; objects are new ones, changed ones, and some that a
     * constraint refuses. Lists count without their order, unless the method's name says one; refusals by the class of
     * their SQLState (ISO 9075), where there is one. Methods whose arguments cannot be made are left out, and named. The calls
     * follow from the stage's variation and the rows that are stored; methods that the stage {@linkplain Stage#define
     * defines} do in the fake what was said.
     *
     * @param <R> the data-access interface
     * @param type the data-access interface
     * @param real a stage on a database
     * @param implementation makes the implementation, from the stage's connections
     * @param calls how many calls, at least 1
     * @return what was driven
     * @throws AssertionError at the first difference; the report gives the fewest calls that show it
     * @throws IllegalArgumentException if {@code calls} is less than 1
     * @throws ZabbetException if the stage is in memory, or a fake cannot be made
     */
    public static <R> ComparedCalls check(
            Class<R> type, Stage real, Function<? super DataSource, ? extends R> implementation, int calls) {
        Words.notNull(type, "type", "SameBehaviour.check");
        Words.notNull(real, "real", "SameBehaviour.check");
        if (real.store().isInMemory()) {
            throw new ZabbetException(
                    "SameBehaviour.check compares with a database; this stage's rows live in memory.");
        }
        if (calls < 1) {
            throw new IllegalArgumentException("SameBehaviour.check: calls is " + calls + "; at least 1 is needed.");
        }
        RewindPoint start = real.mark();
        try {
            Schema schema = real.schema();
            for (Table table : schema.storingOrder().tables()) {
                if (real.rows(table.name()).size() < ROWS) {
                    real.add(ROWS, table.name());
                }
            }
            MemoryStore memory = new MemoryStore(schema, real.clock());
            R fake = new Fakes(new CallLog(null), real.definitions()).fake(type, memory, refusal -> null);
            Comparison comparison = new Comparison(type, memory, real.store(), real.variation());
            return comparison.drive(fake, implementation.apply(real.dataSource()), calls);
        } finally {
            real.rewind(start);
        }
    }
}
