package dev.zabbet;

import dev.zabbet.internal.text.Words;
import dev.zabbet.schema.Schema;
import dev.zabbet.store.MemoryStore;

/** Stages whose rows live in memory, without any database. */
public final class Memory {
    private Memory() {}

    /** Opens a stage with empty tables in memory, under the constraints of the schema. */
    public static Stage stage(Schema schema) {
        Words.notNull(schema, "schema", "Memory.stage");
        return Stage.on(clock -> new MemoryStore(schema, clock));
    }
}
