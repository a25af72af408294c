package dev.zabbet.internal.plan.document;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.document.DocumentPath;
import dev.zabbet.internal.document.DocumentPlaces;
import dev.zabbet.internal.jsonschema.JsonSchema;
import dev.zabbet.value.Values;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * How documents are made: from a schema, a Java type or nothing, and then changed place by place. Immutable.
 *
 * @param schema what they keep; null if nothing says so
 * @param base makes a document to begin with, for the given owner
 * @param edits what is said of places, in the order in which it was said
 * @param filled whether optional fields are made
 * @param references which places hold keys of rows
 */
public record DocumentRecipe(
        @Nullable JsonSchema schema, Base base, List<Edit> edits, boolean filled, List<Reference> references) {
    private static volatile Function<Object, Optional<DocumentRecipe>> opener = document -> Optional.empty();

    /**
     * Says that a place holds the key of a row.
     *
     * @param path the place, or all that a path with stars means
     * @param table the table of the row
     */
    public record Reference(DocumentPath path, String table) {}

    /** Makes what the edits begin with. */
    @FunctionalInterface
    public interface Base {
        /**
         * Makes a plain document.
         *
         * @param owner the table and column, by which fitting texts are chosen
         */
        @Nullable
        Object make(Values values, String owner, boolean filled);
    }

    /**
     * What is said of a place.
     *
     * @param how makes the plain value there; null for one that is left away
     */
    public record Edit(DocumentPath path, @Nullable Function<Values, @Nullable Object> how) {}

    public DocumentRecipe {
        edits = List.copyOf(edits);
        references = List.copyOf(references);
    }

    /** Says how the recipe of a {@code Document} is read: only its class can see it. Called once, by that class. */
    public static void openBy(Function<Object, Optional<DocumentRecipe>> way) {
        opener = way;
    }

    /** Returns the recipe of a {@code Document}; empty of anything else. */
    public static Optional<DocumentRecipe> of(Object document) {
        return opener.apply(document);
    }

    public static DocumentRecipe ofSchema(JsonSchema schema) {
        return new DocumentRecipe(
                schema,
                (values, owner, filled) -> new DocumentMaker(schema, owner, filled).make(values),
                List.of(),
                false,
                List.of());
    }

    public DocumentRecipe with(Edit edit) {
        List<Edit> all = new ArrayList<>(edits);
        all.removeIf(other -> edit.path().covers(other.path())); // the last setting for a place wins
        all.add(edit);
        return new DocumentRecipe(schema, base, all, filled, references);
    }

    public DocumentRecipe withOptional() {
        return new DocumentRecipe(schema, base, edits, true, references);
    }

    public DocumentRecipe with(Reference reference) {
        List<Reference> all = new ArrayList<>(references);
        all.removeIf(other -> other.path().equals(reference.path()));
        all.add(reference);
        return new DocumentRecipe(schema, base, edits, filled, all);
    }

    public Optional<JsonSchema> kept() {
        return Optional.ofNullable(schema);
    }

    /**
     * Makes a plain document.
     *
     * @throws ZabbetException if a place that something is said of cannot be reached
     */
    public @Nullable Object make(Values values, String owner) {
        Object document = base.make(values, owner, filled);
        for (Edit edit : edits) {
            Function<Values, @Nullable Object> how = edit.how();
            try {
                document = how == null
                        ? DocumentPlaces.without(document, edit.path())
                        : DocumentPlaces.with(document, edit.path(), how.apply(values));
            } catch (IllegalArgumentException e) {
                throw new ZabbetException(
                        "Nothing can be put at " + name(edit.path()) + " of a document: " + e.getMessage() + ".");
            }
        }
        return document;
    }

    private static String name(DocumentPath path) {
        return path.toString().replaceFirst("^\\.", "");
    }
}
