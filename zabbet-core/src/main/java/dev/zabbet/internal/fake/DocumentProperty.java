package dev.zabbet.internal.fake;

import dev.zabbet.internal.document.DocumentPath;
import dev.zabbet.internal.document.DocumentPlaces;
import dev.zabbet.internal.document.PlainDocument;
import dev.zabbet.internal.store.ConditionMatch;
import dev.zabbet.internal.type.DocumentNames;
import dev.zabbet.internal.type.DocumentValue;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.row.Matcher;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Generation;
import dev.zabbet.store.Condition;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * A property of what an object keeps whole in a column of JSON: {@code GuestCountry} in a method's name is the place {@code country} in
 * the document of {@code guest}.
 *
 * @param owner the property that is kept whole
 * @param path where in its document
 * @param names under which names properties stand in the document
 * @param holder the class of the object that has the property there
 * @param leaf the property there
 */
record DocumentProperty(Prop owner, DocumentPath path, DocumentNames names, Class<?> holder, Prop leaf) {

    /** Finds the property that words mean; the longest name of an owner counts. */
    static Optional<DocumentProperty> find(List<String> words, EntityType entity) {
        for (int middle = words.size() - 1; middle > 0; middle--) {
            Prop owner = entity.property(String.join("", words.subList(0, middle)))
                    .filter(prop -> entity.columnOf(prop)
                                    .filter(column -> column.type().kind() == Kind.JSON)
                                    .isPresent()
                            && DocumentValue.isStructured(prop.type()))
                    .orElse(null);
            if (owner != null) {
                Optional<DocumentProperty> found = inside(
                        owner,
                        DocumentPath.WHOLE,
                        DocumentNames.within(owner.type()),
                        owner.type(),
                        words.subList(middle, words.size()));
                if (found.isPresent()) {
                    return found;
                }
            }
        }
        return Optional.empty();
    }

    private static Optional<DocumentProperty> inside(
            Prop owner, DocumentPath at, DocumentNames names, Class<?> type, List<String> words) {
        for (int middle = words.size(); middle > 0; middle--) {
            Prop part = part(type, String.join("", words.subList(0, middle))).orElse(null);
            if (part != null && middle == words.size()) {
                return Optional.of(new DocumentProperty(owner, at.name(names.of(type, part)), names, type, part));
            }
            if (part != null && DocumentValue.isStructured(part.type())) {
                Optional<DocumentProperty> found = inside(
                        owner, at.name(names.of(type, part)), names, part.type(), words.subList(middle, words.size()));
                if (found.isPresent()) {
                    return found;
                }
            }
        }
        return Optional.empty();
    }

    private static Optional<Prop> part(Class<?> type, String words) {
        return TypeShape.of(type).ownProperties().stream()
                .filter(prop -> prop.name().equalsIgnoreCase(words.replace("_", "")))
                .findFirst();
    }

    /** Returns what stands for a column where the place is compared: it has the type of the property there. */
    Column column() {
        Kind kind = JavaValue.kindOf(leaf.type());
        boolean plain = kind != Kind.OTHER && kind != Kind.ENUM;
        DataType type = DataType.of(plain ? kind : Kind.TEXT, leaf.type().getSimpleName());
        String name = owner.name() + path;
        return new Column(name, name, type, true, Optional.empty(), Generation.NONE);
    }

    /** Returns what a row holds there, in the form that a column would hold it in; null if it is not there, or of another type. */
    @Nullable
    Object in(Row row, Column whole) {
        return typed(path.in(PlainDocument.read(row.get(whole.name()))));
    }

    private @Nullable Object typed(@Nullable Object held) {
        try {
            return CanonicalForm.of(column().type(), held);
        } catch (InexactValueException e) {
            return null;
        }
    }

    /** Returns an argument of a method as the documents hold it. */
    @Nullable
    Object written(@Nullable Object argument) {
        return names.written(holder, leaf, argument);
    }

    /** Returns what a method returns for what {@link #in a row} holds. */
    @Nullable
    Object read(@Nullable Object held) {
        return names.read(holder, leaf, held);
    }

    /** Returns the condition on rows that one on {@link #column()} means. */
    Condition condition(Column whole, Condition there) {
        return new Condition.Inside(whole.name(), path.toString(), new Met(this, there));
    }

    /** Returns the document with another value there. */
    @Nullable
    Object changed(Row row, Column whole, @Nullable Object value) {
        Object document = PlainDocument.read(row.get(whole.name()));
        return PlainDocument.write(DocumentPlaces.with(document, path, PlainDocument.of(written(value))));
    }

    /** A condition on one place, asked as if it were a column. */
    private record Met(DocumentProperty property, Condition there) implements Matcher {
        @Override
        public boolean matches(DataType type, @Nullable Object stored) {
            Object value = property.typed(stored);
            return ConditionMatch.holds(there, name -> value);
        }

        @Override
        public String describe() {
            return String.valueOf(there);
        }
    }
}
