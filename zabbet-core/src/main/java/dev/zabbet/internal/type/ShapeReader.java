package dev.zabbet.internal.type;

import dev.zabbet.error.ZabbetException;
import java.lang.reflect.AnnotatedElement;
import java.lang.reflect.Executable;
import java.lang.reflect.Field;
import java.lang.reflect.InaccessibleObjectException;
import java.lang.reflect.Member;
import java.lang.reflect.Modifier;
import java.lang.reflect.Parameter;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.RecordComponent;
import java.lang.reflect.Type;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Reads the properties of a type from its components or fields. */
final class ShapeReader {
    private final TypeShape<?> shape;

    ShapeReader(TypeShape<?> shape) {
        this.shape = shape;
    }

    void readRecord() {
        for (RecordComponent component : shape.type.getRecordComponents()) {
            Field field = field(component.getName());
            add(
                    component.getName(),
                    component.getType(),
                    component.getGenericType(),
                    PropertyReading.marked(component) || PropertyReading.marked(component.getAnnotatedType()),
                    open(component.getAccessor()),
                    field == null ? List.of(component.getAccessor()) : List.of(field, component.getAccessor()));
        }
    }

    private @Nullable Field field(String name) {
        try {
            return shape.type.getDeclaredField(name);
        } catch (NoSuchFieldException e) {
            return null;
        }
    }

    void readFields() {
        List<String> wanted = shape.byFields
                ? List.of()
                : Arrays.stream(shape.constructor.getParameters())
                        .map(Parameter::getName)
                        .toList();
        Map<String, Field> fields = new LinkedHashMap<>();
        for (Class<?> c = shape.type; c != null && c != Object.class; c = c.getSuperclass()) {
            for (Field field : c.getDeclaredFields()) {
                int modifiers = field.getModifiers();
                boolean left = Modifier.isStatic(modifiers)
                        || field.isSynthetic()
                        || Modifier.isTransient(modifiers)
                        || Annotations.has(PropertyReading.places(field), "Transient");
                if (!left) {
                    fields.putIfAbsent(field.getName(), field);
                }
            }
        }
        for (String name : shape.byFields ? fields.keySet() : wanted) {
            Field field = fields.get(name);
            if (field == null) {
                throw new ZabbetException(
                        "The constructor of " + shape.type.getName() + " has a parameter '" + name
                                + "' but the class has no field of that name. Compile it with -parameters, or name them alike.");
            }
            Type of = FieldTypes.of(field, shape.type);
            add(
                    name,
                    of == field.getGenericType() ? field.getType() : DocumentValue.raw(of),
                    of,
                    PropertyReading.marked(field) || PropertyReading.marked(field.getAnnotatedType()),
                    open(field),
                    PropertyReading.places(field));
        }
    }

    private void add(
            String name,
            Class<?> declared,
            Type generic,
            boolean marked,
            Member reader,
            List<? extends AnnotatedElement> elements) {
        List<AnnotatedElement> places = List.copyOf(elements);
        boolean optional = declared == Optional.class;
        Type held = optional && generic instanceof ParameterizedType p ? p.getActualTypeArguments()[0] : generic;
        Class<?> holds = optional ? DocumentValue.raw(held) : declared;
        Optional<String> above = shape.mapping.flatMap(m -> m.columnAbove(name));
        Optional<String> column = said(name)
                .or(() -> above)
                .or(() -> Annotations.text(places, "Column", "name"))
                .or(() -> Annotations.text(places, "JoinColumn", "name"));
        boolean kept = shape.layout.whole().containsKey(name);
        Optional<Conversion> converted = kept
                ? Optional.empty()
                : shape.mapping.map(m -> m.conversions().get(name)).or(() -> TextForms.of(holds));
        boolean entity = EntityMapping.isEntity(holds);
        boolean structured = !kept && converted.isEmpty() && (DocumentValue.isStructured(holds) || entity);
        Optional<Prop> key = structured ? keyOf(holds, places) : Optional.empty();
        Prop prop = new Prop(name, holds, held, optional, optional || marked, column, key);
        if (shape.isEntity() && !declared.isPrimitive() && !PropertyReading.isSaidRequired(places)) {
            shape.open.add(name);
        }
        boolean without = above.isEmpty()
                && shape.mapping.filter(m -> m.without().contains(name)).isPresent();
        if (without
                || (entity && structured && key.isEmpty())
                || (shape.isEntity() && !PropertyReading.isMakeable(prop, kept, converted))) {
            shape.absent.add(name);
            shape.parts.put(name, new TypeShape.Part(prop, reader, null));
            return;
        }
        @SuppressWarnings("unchecked")
        TypeShape<Object> inner =
                structured && key.isEmpty() && !TypeShape.BEING_READ.get().contains(holds)
                        ? (TypeShape<Object>) TypeShape.of(holds)
                        : null;
        shape.parts.put(name, new TypeShape.Part(prop, reader, inner));
        converted.ifPresent(conversion -> shape.conversions.put(name, conversion));
        Annotations.named(places, "Version").ifPresent(annotation -> {
            shape.version = prop;
            shape.versionAnnotation = annotation;
        });
        if (inner != null) {
            Map<String, String> overridden = PropertyReading.overridden(places);
            inner.properties().forEach(p -> {
                Prop inside = p.inside(name);
                Optional<String> other = said(inside.name())
                        .or(() -> shape.mapping.flatMap(m -> m.columnAbove(inside.name())))
                        .or(() -> Optional.ofNullable(overridden.get(p.name())));
                shape.properties.put(inside.name(), other.isPresent() ? inside.inColumn(other) : inside);
            });
            inner.open.forEach(path -> shape.open.add(name + "." + path));
            inner.conversions.forEach((path, conversion) -> shape.conversions.put(name + "." + path, conversion));
            shape.mapping.ifPresent(m -> m.conversions().forEach((path, conversion) -> {
                if (path.startsWith(name + ".")) {
                    shape.conversions.put(path, conversion);
                }
            }));
        } else if (kept || !DocumentValue.isCollection(holds)) {
            shape.properties.put(name, prop);
        }
    }

    private Optional<String> said(String path) {
        return shape.mapping.map(m -> m.columns().get(path));
    }

    /** An object has a row of its own if an annotation says so, or if it has an id. */
    static Optional<Prop> keyOf(Class<?> type, List<AnnotatedElement> places) {
        if (Annotations.has(places, "Embedded") || Annotations.has(places, "EmbeddedId")) {
            return Optional.empty();
        }
        Field key = null;
        for (Class<?> c = type; c != null && c != Object.class; c = c.getSuperclass()) {
            for (Field field : c.getDeclaredFields()) {
                List<AnnotatedElement> on = PropertyReading.places(field);
                boolean id = Annotations.has(on, "Id");
                if (Annotations.has(on, "EmbeddedId")
                        || (id && key != null && !key.getName().equals("id"))) {
                    return Optional.empty(); // several columns
                }
                if (id || (key == null && field.getName().equals("id"))) {
                    key = field;
                }
            }
        }
        if (key == null) {
            return Optional.empty();
        }
        Type of = FieldTypes.of(key, type);
        Class<?> raw = of == key.getGenericType() ? key.getType() : DocumentValue.raw(of);
        if (DocumentValue.isStructured(raw) || EntityMapping.isEntity(raw)) {
            return Optional.empty();
        }
        return Optional.of(new Prop(
                key.getName(),
                raw,
                of,
                false,
                true,
                Annotations.text(PropertyReading.places(key), "Column", "name"),
                Optional.empty()));
    }

    <A extends java.lang.reflect.AccessibleObject & Member> A open(A member) {
        try {
            if (!(member instanceof Executable) || !Modifier.isPublic(member.getModifiers()) || !isPublic()) {
                member.setAccessible(true);
            }
            return member;
        } catch (InaccessibleObjectException e) {
            String module = String.valueOf(shape.type.getModule().getName());
            throw new ZabbetException(
                    "Module " + module + " keeps " + shape.type.getName()
                            + " closed. Add to its module-info.java: opens " + shape.type.getPackageName()
                            + " to dev.zabbet.core;",
                    e);
        }
    }

    private boolean isPublic() {
        return Modifier.isPublic(shape.type.getModifiers()) && shape.type.getEnclosingClass() == null;
    }
}
