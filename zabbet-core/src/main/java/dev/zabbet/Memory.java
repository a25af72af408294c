package dev.zabbet;

import dev.zabbet.internal.memory.MemoryStore;
import dev.zabbet.internal.text.Words;
import dev.zabbet.schema.Schema;
import java.time.Clock;
import java.util.List;

/** Stages whose rows live in memory, without any database. */
public final class Memory {
    private Memory() {}

    /**
     * Opens a stage with empty tables in memory, under the constraints of the schema.
     *
     * @param schema the tables
     * @return the stage, to be closed by the caller
     */
    public static Stage stage(Schema schema) {
        Words.notNull(schema, "schema", "Memory.stage");
        return Stage.on(clock -> new MemoryStore(schema, clock));
    }

    /**
     * Returns the constraints of a schema that a stage in memory does not enforce, since only a database can evaluate them: checks
     * that call its functions, for example.
     *
     * @param schema the tables
     * @return a line for each, as {@code stay: check is_open(night)}; empty if all are enforced
     */
    public static List<String> notEnforced(Schema schema) {
        return new MemoryStore(Words.notNull(schema, "schema", "Memory.notEnforced"), Clock.systemUTC()).notEnforced();
    }
}
