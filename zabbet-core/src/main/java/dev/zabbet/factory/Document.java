package dev.zabbet.factory;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.document.DocumentPath;
import dev.zabbet.internal.document.PlainDocument;
import dev.zabbet.internal.jsonschema.JsonSchema;
import dev.zabbet.internal.jsonschema.SchemaEvaluation;
import dev.zabbet.internal.plan.document.DocumentFlaws;
import dev.zabbet.internal.plan.document.DocumentRecipe;
import dev.zabbet.internal.plan.document.DocumentRecipe.Edit;
import dev.zabbet.internal.plan.value.Draws;
import dev.zabbet.internal.plan.value.ValuesByType;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.ApplicationJson;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.type.CheckReturnValue;
import dev.zabbet.value.Values;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Describes how documents are made: by a JSON Schema (draft 2020-12), by a Java type, or place by place. Hand it to {@code invent}: each
 * row gets a document of its own.
 *
 * <pre>{@code
 * Document amenities = Document.schema(Path.of("amenities.schema.json")).with("kitchen.stoves", 2);
 * Factory<Row> huts = Factory.forTable("hut").invent("amenities", amenities);
 * }</pre>
 *
 * <p>Places are named as in expectations: {@code guest.name}, {@code guests[0]}, {@code ["odd.name"]}. What a document is made of is a
 * pure function of the variation, the table, the row's ordinal and the place, so that one more field changes no other. Fields that need
 * not be there are left away unless {@link #filled} says otherwise.
 *
 * <p>Immutable and thread-safe: every method returns another description. The last setting for a place wins.
 */
@CheckReturnValue
public final class Document implements Function<Values, @Nullable Object> {
    private final DocumentRecipe recipe;

    static {
        DocumentRecipe.openBy(
                one -> one instanceof Document document ? Optional.of(document.recipe) : Optional.empty());
    }

    private Document(DocumentRecipe recipe) {
        this.recipe = recipe;
    }

    /**
     * {@return documents that a JSON Schema allows}
     *
     * @param text the schema, as JSON; references in it lead to places in itself
     * @throws ZabbetException if it is no schema of draft 2020-12, or holds what is not understood ({@code $dynamicRef}, {@code
     *     $vocabulary}, references to other files): the message names it
     */
    public static Document schema(String text) {
        return schema(Words.notNull(text, "text", "Document.schema"), "given as text");
    }

    /**
     * {@return documents that a JSON Schema in a file allows}
     *
     * @param file a file in UTF-8
     * @throws ZabbetException as {@link #schema(String)}, and if the file cannot be read
     */
    public static Document schema(Path file) {
        Words.notNull(file, "file", "Document.schema");
        try {
            return schema(Files.readString(file), file.toString());
        } catch (IOException e) {
            throw new ZabbetException("The JSON Schema " + file + " cannot be read: " + e, e);
        }
    }

    /**
     * {@return documents that a JSON Schema in a resource allows}
     *
     * @param beside the class by which the resource is found
     * @param name the resource's name, as {@link Class#getResourceAsStream} takes it
     * @throws ZabbetException as {@link #schema(String)}, and if there is no such resource
     */
    public static Document schema(Class<?> beside, String name) {
        Words.notNull(beside, "beside", "Document.schema");
        try (InputStream resource = beside.getResourceAsStream(Words.notNull(name, "name", "Document.schema"))) {
            if (resource == null) {
                throw new ZabbetException("There is no resource " + name + " beside " + beside.getName() + ".");
            }
            return schema(new String(resource.readAllBytes(), StandardCharsets.UTF_8), name);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static Document schema(String text, String name) {
        return new Document(DocumentRecipe.ofSchema(JsonSchema.read(text, name)));
    }

    /**
     * {@return documents that objects of a type are written as: each property under its name, enums and times as text}
     *
     * @param type a record or class of the application
     */
    public static Document ofType(Class<?> type) {
        Words.notNull(type, "type", "Document.ofType");
        return new Document(new DocumentRecipe(
                null,
                (values, owner, filled) ->
                        PlainDocument.of(new ValuesByType(owner, values.ordinal(), Set.of(), Map.of())
                                .of(type, type.getSimpleName(), false)),
                List.of(),
                false,
                List.of()));
    }

    /**
     * Has the application's own {@code ObjectMapper} write and read its classes wherever they stand in documents: in what factories are
     * given, expectations name, fakes store and return, and {@link #ofType} makes. Names and forms are the mapper's then, and so are
     * the places that expectations name. Without it a property stands under its own name, and enums and times as text.
     *
     * <p>This holds for the whole JVM, from now on, in place of what was said before: say it before the first stage is opened, where
     * the application is configured for tests. Columns that hold no documents are none of its concern.
     *
     * @param mapper an {@code ObjectMapper} of Jackson 2 or 3; it is called from many threads, which it allows
     * @param types the classes that it writes, with those that extend them; all of the application if none is named
     * @throws ZabbetException if it is no such mapper
     */
    public static void writtenBy(Object mapper, Class<?>... types) {
        try {
            ApplicationJson.use(Words.notNull(mapper, "mapper", "Document.writtenBy"), List.of(types));
        } catch (InexactValueException e) {
            throw new ZabbetException("Documents cannot be written by this mapper: " + e.clause() + ".");
        }
    }

    /** {@return documents that are empty objects, to be filled by {@link #with} and the like} */
    public static Document empty() {
        return new Document(new DocumentRecipe(null, (values, owner, filled) -> Map.of(), List.of(), false, List.of()));
    }

    /**
     * Puts the same value at a place of every document. Objects on the way there that are missing are made, and a list takes the position
     * after its last.
     *
     * @param place where, {@code guest.name} for example
     * @param value what JSON can hold, or a map, list or object of the application that is written so
     * @return another description; this one stays as it is
     * @throws ZabbetException if no document can hold the value
     */
    public Document with(String place, @Nullable Object value) {
        Object plain = PlainDocument.of(value);
        return with(place, values -> plain, "with");
    }

    /**
     * Invents a value for a place of each document.
     *
     * @param place where, {@code guest.name} for example
     * @param how makes a value; asked once for each document
     * @return another description; this one stays as it is
     */
    public Document invent(String place, Function<? super Values, ? extends @Nullable Object> how) {
        Words.notNull(how, "how", "invent");
        return with(place, values -> PlainDocument.of(how.apply(values)), "invent");
    }

    /**
     * Puts these values at a place, document by document, from the start again after the last. Which one it is depends on the row's
     * ordinal.
     *
     * @param place where, {@code guest.name} for example
     * @param first the first document's value
     * @param second the second document's value
     * @param rest the values of the documents after these
     * @return another description; this one stays as it is
     */
    public Document inTurn(String place, @Nullable Object first, @Nullable Object second, @Nullable Object... rest) {
        List<@Nullable Object> all = PropertyFit.list(first, second, rest);
        all.replaceAll(PlainDocument::of);
        return with(place, values -> all.get((int) Math.floorMod(values.ordinal() - 1, (long) all.size())), "inTurn");
    }

    /**
     * Leaves a place away.
     *
     * @param place where, {@code guest.name} for example
     * @return another description; this one stays as it is
     */
    public Document without(String place) {
        return new Document(recipe.with(new Edit(path(place, "without"), null)));
    }

    /**
     * Says that a place holds the key of a row: {@code ref("wardenId", "warden")}. Where rows are made with such documents, a row of that
     * table is made too, and its key stands there; a place that means several, {@code guests[*].id} for example, holds it wherever a
     * document has one. {@code Stage.documents} makes it known to the whole stage.
     *
     * @param place where
     * @param table the table that it refers to, whose key is one column
     * @return another description; this one stays as it is
     */
    public Document ref(String place, String table) {
        return new Document(
                recipe.with(new DocumentRecipe.Reference(anyPath(place, "ref"), Words.notNull(table, "table", "ref"))));
    }

    /**
     * Makes the fields too that need not be there, down to five levels.
     *
     * @return another description; this one stays as it is
     */
    public Document filled() {
        return new Document(recipe.withOptional());
    }

    private Document with(String place, Function<Values, @Nullable Object> how, String method) {
        return new Document(recipe.with(new Edit(path(place, method), how)));
    }

    private static DocumentPath path(String place, String method) {
        DocumentPath path = anyPath(place, method);
        if (path.isPattern()) {
            throw new ZabbetException(
                    method + "(\"" + place + "\", …): a star means several places; name one, such as [0].");
        }
        return path;
    }

    private static DocumentPath anyPath(String place, String method) {
        Words.notNull(place, "place", method);
        return DocumentPath.read(place.startsWith("[") ? place : "." + place, place);
    }

    /**
     * Makes a document for a row: a map, list, text, number, boolean or null.
     *
     * @param values where the row's values come from
     * @throws ZabbetException if no document was found that the schema allows, or a place cannot be reached
     */
    @Override
    public @Nullable Object apply(Values values) {
        return recipe.make(values, "document");
    }

    /** {@return one document, made without a row or a stage} */
    public @Nullable Object build() {
        return apply(new Draws(0, 1, Draws.CLOCK, Object.class, column -> null));
    }

    /**
     * {@return documents each of which breaks one keyword of the schema at one place, and nothing else} They are made of a filled
     * document with all that this description says. A keyword that cannot be broken alone has none.
     *
     * @throws ZabbetException if there is no schema
     */
    public Stream<FlawedDocument> flawed() {
        JsonSchema schema = recipe.kept()
                .orElseThrow(() -> new ZabbetException(
                        "Only documents of a JSON Schema can be flawed: nothing else says what is allowed."));
        return new DocumentFlaws(schema, filled().build(), true)
                .all().stream()
                        .map(flaw -> new FlawedDocument(
                                flaw.problem().at().toString().replaceFirst("^\\.", ""),
                                flaw.problem().keyword(),
                                "#" + flaw.problem().place(),
                                Optional.ofNullable(flaw.document())));
    }

    /**
     * {@return what a document breaks of the schema, each as the place and the keyword; nothing if it is allowed, or without a schema}
     * Formats count.
     *
     * @param document a map, list or object of the application, or what JSON can hold
     */
    public List<String> problems(@Nullable Object document) {
        return recipe.kept()
                .map(schema -> SchemaEvaluation.problems(schema, PlainDocument.of(document), true).stream()
                        .map(problem ->
                                Objects.toString(problem.at()).replaceFirst("^\\.", "") + " " + problem.keyword())
                        .map(String::strip)
                        .toList())
                .orElse(List.of());
    }
}
