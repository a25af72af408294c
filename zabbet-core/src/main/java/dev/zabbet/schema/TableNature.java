package dev.zabbet.schema;

import java.util.List;
import java.util.Optional;

/**
 * The properties of a table that are not columns or constraints.
 *
 * @param form how its rows are kept
 * @param parent the name of the table that it is a part or an heir of, if it is one
 * @param triggers the names of the triggers on it, Zabbet's own left out
 */
public record TableNature(Form form, Optional<String> parent, List<String> triggers) {

    /** A table that keeps its own rows and has no trigger. */
    public static final TableNature PLAIN = new TableNature(Form.TABLE, Optional.empty(), List.of());

    /** How the rows of a table are kept. */
    public enum Form {
        /** It keeps its own rows. */
        TABLE,
        /** Its rows are kept in its parts. */
        PARTITIONED,
        /** It keeps a part of another table's rows. */
        PART,
        /** It keeps its own rows, and another table shows them as its own too. */
        HEIR
    }

    /**
     * Copies the triggers.
     *
     * @param form how its rows are kept
     * @param parent the table that it is a part or an heir of, if it is one
     * @param triggers the names of the triggers on it, Zabbet's own left out
     */
    public TableNature {
        triggers = List.copyOf(triggers);
    }
}
