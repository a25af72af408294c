package dev.zabbet.internal.plan;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.plan.value.Draws;
import dev.zabbet.internal.plan.value.ValuesByType;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.SplitMix;
import dev.zabbet.value.Values;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** One object that is made of its type alone. */
final class StandAloneObject<T> {
    private final Recipe<T> factory;
    private final TypeShape<T> shape;
    private final long ordinal;
    private final Map<String, @Nullable Object> values = new HashMap<>();
    private final Set<String> asked = new HashSet<>();

    StandAloneObject(Recipe<T> factory, long ordinal) {
        this.factory = factory;
        this.shape = TypeShape.of(factory.type());
        this.ordinal = ordinal;
        for (String name : factory.settings().keySet()) {
            shape.require(name);
        }
    }

    T object() {
        return shape.makeOfOwn(prop -> value(prop.name()));
    }

    private @Nullable Object value(String name) {
        if (values.containsKey(name)) {
            return values.get(name);
        }
        if (!asked.add(name)) {
            throw new ZabbetException("The value invented for " + factory.type().getSimpleName() + "::" + name
                    + " asks for a property whose value depends on it. Let only one of the two ask for the other.");
        }
        Prop prop = shape.require(name);
        Setting setting = factory.settings().get(name);
        Map<String, Setting> inner = inner(name);
        Object made;
        if (!inner.isEmpty()) {
            made = nested(prop.type(), inner);
        } else if (setting == null) {
            made = invented(prop);
        } else {
            made = said(prop, setting);
        }
        values.put(name, made);
        return made;
    }

    /** What is said of the properties of a value object inside. */
    private Map<String, Setting> inner(String name) {
        Map<String, Setting> inner = new LinkedHashMap<>();
        factory.settings().forEach((key, setting) -> {
            if (key.startsWith(name + ".")) {
                inner.put(key.substring(name.length() + 1), setting);
            }
        });
        return inner;
    }

    private <V> @Nullable Object nested(Class<V> type, Map<String, Setting> settings) {
        if (settings.values().stream()
                .allMatch(s -> (s instanceof Setting.Fixed fixed && fixed.value() == null)
                        || (s instanceof Setting.Copied copied && copied.value() == null))) {
            return null;
        }
        Recipe<V> held = Recipe.ofType(type);
        for (Map.Entry<String, Setting> setting : settings.entrySet()) {
            held = held.with(setting.getKey(), setting.getValue());
        }
        return new StandAloneObject<>(held, ordinal).object();
    }

    private @Nullable Object said(Prop prop, Setting setting) {
        if (setting instanceof Setting.Fixed fixed) {
            return fixed.value();
        }
        if (setting instanceof Setting.Copied copied) {
            return copied.value();
        }
        if (setting instanceof Setting.InTurn turn) {
            return turn.values().get((int) ((ordinal - 1) % turn.values().size()));
        }
        if (setting instanceof Setting.Invented invented) {
            return invented.how().apply(draws(prop.name()));
        }
        if (setting instanceof Setting.Parents parents) {
            return held(prop, parents.rows().get((int)
                    ((ordinal - 1) % parents.rows().size())));
        }
        Recipe<?> parent;
        if (setting instanceof Setting.Parent one) {
            parent = one.recipe();
        } else if (setting instanceof Setting.SharedParent shared) {
            parent = shared.recipe();
        } else if (setting instanceof Setting.StoredParents
                || setting instanceof Setting.Given
                || setting instanceof Setting.MadeAnyway) {
            throw new ZabbetException(factory.type().getSimpleName() + "::" + prop.name()
                    + " must refer to a stored row, but there is no"
                    + " store. Make the object by stage.build(factory).");
        } else {
            throw new IllegalStateException("No value of " + setting);
        }
        return held(prop, new StandAloneObject<>(parent, setting instanceof Setting.Parent ? ordinal : 1).object());
    }

    /** A property that is no object itself holds the key. */
    @SuppressWarnings("unchecked")
    private static @Nullable Object held(Prop prop, Object parent) {
        if (prop.type().isInstance(parent)) {
            return parent;
        }
        TypeShape<Object> shape = TypeShape.of((Class<Object>) parent.getClass());
        return shape.find("id").map(key -> shape.read(parent, key)).orElse(parent);
    }

    private @Nullable Object invented(Prop prop) {
        return new ValuesByType(shape.table(), ordinal, Set.of(factory.type()), Map.of())
                .of(prop.generic(), prop.name(), prop.nullable() || prop.optional());
    }

    private Values draws(String name) {
        long state = SplitMix.of(0, SplitMix.name(shape.table(), Words.snakeCase(name)), ordinal);
        return new Draws(state, ordinal, Draws.CLOCK, factory.type(), this::value);
    }
}
