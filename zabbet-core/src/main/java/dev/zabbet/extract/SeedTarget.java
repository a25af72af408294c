package dev.zabbet.extract;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.Seed;
import dev.zabbet.seed.SeedRow;
import java.util.ArrayList;
import java.util.List;

/** Keeps an extract as a seed, to be loaded into another stage: also one of another kind of database. Not thread-safe. */
public final class SeedTarget implements ExtractTarget {
    private final List<SeedRow> rows = new ArrayList<>();
    private boolean ended;

    /** Makes a target that holds nothing yet. */
    public SeedTarget() {}

    /**
     * {@return the rows, all of them with labels where others refer to them}
     *
     * @throws ZabbetException if the extract has not ended
     */
    public Seed seed() {
        if (!ended) {
            throw new ZabbetException("The extract has not ended, so that there is no seed yet.");
        }
        return Seed.of(rows);
    }

    @Override
    public boolean wantsLabels() {
        return true;
    }

    @Override
    public void begin(Schema schema, List<Table> tables) {
        rows.clear();
        ended = false;
    }

    @Override
    public void row(ExtractedRow row) {
        rows.add(row.seed().orElseThrow());
    }

    @Override
    public void end() {
        ended = true;
    }

    @Override
    public void close() {
        // what did not end gives no seed
    }
}
