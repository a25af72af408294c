package dev.zabbet.spring.internal.context;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.type.Conversion;
import dev.zabbet.internal.type.EntityMapping;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import jakarta.persistence.EntityManagerFactory;
import java.lang.reflect.Modifier;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.hibernate.engine.spi.SessionFactoryImplementor;
import org.hibernate.id.enhanced.SequenceStyleGenerator;
import org.hibernate.metamodel.mapping.AttributeMapping;
import org.hibernate.metamodel.mapping.BasicValuedModelPart;
import org.hibernate.metamodel.mapping.EmbeddableValuedModelPart;
import org.hibernate.metamodel.mapping.EntityDiscriminatorMapping;
import org.hibernate.metamodel.mapping.EntityIdentifierMapping;
import org.hibernate.metamodel.mapping.EntityMappingType;
import org.hibernate.metamodel.mapping.ForeignKeyDescriptor;
import org.hibernate.metamodel.mapping.ModelPart;
import org.hibernate.metamodel.mapping.SelectableMapping;
import org.hibernate.metamodel.mapping.internal.ToOneAttributeMapping;
import org.hibernate.metamodel.spi.MappingMetamodelImplementor;
import org.hibernate.persister.entity.EntityPersister;
import org.hibernate.persister.entity.UnionSubclassEntityPersister;
import org.hibernate.type.descriptor.converter.spi.BasicValueConverter;
import org.jspecify.annotations.Nullable;

/** Reads from Hibernate (6.6 and 7) in which table and column it keeps each property, and how it converts it. */
public final class HibernateMappings {
    private final EntityPersister persister;
    private final String table;
    private final Map<String, String> columns = new HashMap<>();
    private final Set<String> without = new HashSet<>();
    private final Set<String> readOnly = new HashSet<>();
    private final Map<String, Conversion> conversions = new HashMap<>();
    private final Map<String, Map<String, String>> above = new LinkedHashMap<>(); // by the tables of superclasses

    private HibernateMappings(EntityPersister persister) {
        this.persister = persister;
        this.table = persister.getMappedTableDetails().getTableName();
        for (EntityMappingType at = persister.getSuperMappingType(); at != null; at = at.getSuperMappingType()) {
            String name = at.getMappedTableDetails().getTableName();
            if (!name.equals(table) && !(persister instanceof UnionSubclassEntityPersister)) {
                above.put(plain(name), new HashMap<>());
            }
        }
    }

    public static void read(EntityManagerFactory factory, Map<String, String> sequences) {
        MappingMetamodelImplementor metamodel =
                factory.unwrap(SessionFactoryImplementor.class).getMappingMetamodel();
        metamodel.forEachEntityDescriptor(persister -> {
            if (persister.getMappedClass() == null || Map.class.isAssignableFrom(persister.getMappedClass())) {
                return; // of entities without a class
            }
            HibernateMappings mappings = new HibernateMappings(persister);
            EntityMapping.say(persister.getMappedClass(), mappings.read(metamodel));
            if (persister.getGenerator() instanceof SequenceStyleGenerator generator) {
                sequences.put(
                        plain(mappings.table).toLowerCase(Locale.ROOT),
                        plain(generator.getDatabaseStructure().getPhysicalName().render()));
            }
        });
    }

    private EntityMapping read(MappingMetamodelImplementor metamodel) {
        EntityIdentifierMapping identifier = persister.getIdentifierMapping();
        if (identifier instanceof EmbeddableValuedModelPart embedded) {
            boolean virtual = identifier.getAttributeName() == null
                    || (identifier.getNature() != EntityIdentifierMapping.Nature.COMPOSITE
                            && identifier.getNature() != EntityIdentifierMapping.Nature.SIMPLE);
            readParts(embedded, virtual ? "" : identifier.getAttributeName() + ".");
        } else {
            readPart(identifier, String.valueOf(identifier.getAttributeName()));
        }
        persister.forEachAttributeMapping(attribute -> readPart(attribute, attribute.getAttributeName()));
        EntityMapping said = EntityMapping.annotated(persister.getMappedClass()).orElse(null);
        without.removeAll(columns.keySet());
        return new EntityMapping(
                Optional.of(plain(table)),
                columns,
                without,
                readOnly,
                said == null ? Set.of() : said.generated(),
                conversions,
                fixed(said),
                above,
                subclass(metamodel),
                said == null ? Optional.empty() : said.restriction(),
                said == null ? Optional.empty() : said.deletion());
    }

    private void readParts(EmbeddableValuedModelPart embedded, String path) {
        embedded.getEmbeddableTypeDescriptor()
                .forEachAttributeMapping(attribute -> readPart(attribute, path + attribute.getAttributeName()));
    }

    private void readPart(ModelPart part, String path) {
        if (part instanceof ToOneAttributeMapping relation) {
            boolean own = relation.getSideNature() == ForeignKeyDescriptor.Nature.KEY;
            if (own && relation.getJdbcTypeCount() == 1) {
                relation.forEachSelectable((at, column) -> note(path, column));
            } else {
                without.add(path);
            }
        } else if (part instanceof EmbeddableValuedModelPart embedded && !(part instanceof BasicValuedModelPart)) {
            readParts(embedded, path + ".");
        } else if (part instanceof BasicValuedModelPart basic) {
            note(path, basic);
            @SuppressWarnings("unchecked")
            BasicValueConverter<Object, Object> converter =
                    (BasicValueConverter<Object, Object>) basic.getJdbcMapping().getValueConverter();
            if (converter != null && !(part instanceof AttributeMapping attribute && isEnum(attribute))) {
                conversions.put(path, new Converted(converter));
            }
        } else {
            without.add(path);
        }
    }

    private static boolean isEnum(AttributeMapping attribute) {
        return attribute.getJavaType().getJavaTypeClass().isEnum()
                && attribute.getSingleJdbcMapping().getValueConverter() == null;
    }

    private void note(String path, SelectableMapping column) {
        String containing = column.getContainingTableExpression();
        // Of a class that has a table for all it has, some columns are told to be in the union with its subclasses.
        boolean whole = persister instanceof UnionSubclassEntityPersister;
        if (column.isFormula() || !(whole || containing.equals(table))) {
            without.add(path);
            Map<String, String> joined = above.get(plain(containing));
            if (!column.isFormula() && joined != null) {
                joined.put(path, plain(column.getSelectionExpression()));
            }
            return;
        }
        columns.put(path, plain(column.getSelectionExpression()));
        if (!column.isInsertable()) {
            readOnly.add(path);
        }
    }

    /** Returns a class below an abstract one of which objects are made. */
    private Optional<Class<?>> subclass(MappingMetamodelImplementor metamodel) {
        if (!Modifier.isAbstract(persister.getMappedClass().getModifiers())) {
            return Optional.empty();
        }
        return persister.getSubclassEntityNames().stream()
                .sorted()
                .<Class<?>>map(name -> metamodel.getEntityDescriptor(name).getMappedClass())
                .filter(type -> !Modifier.isAbstract(type.getModifiers()))
                .findFirst();
    }

    /** The value that tells a class apart stands in its annotations. */
    private Map<String, Object> fixed(@Nullable EntityMapping said) {
        Map<String, Object> fixed = new HashMap<>(said == null ? Map.of() : said.fixed());
        EntityDiscriminatorMapping discriminator = persister.getDiscriminatorMapping();
        if (discriminator == null
                || !discriminator.hasPhysicalColumn()
                || !discriminator.getContainingTableExpression().equals(table)) {
            return fixed;
        }
        String column = plain(discriminator.getSelectionExpression());
        for (String guessed : Set.copyOf(fixed.keySet())) {
            if (!guessed.equals(column) && !(fixed.get(guessed) instanceof Boolean)) {
                fixed.put(column, fixed.remove(guessed)); // the naming strategy's own spelling
            }
        }
        return fixed;
    }

    /** Returns a name without its quotes. */
    private static String plain(String name) {
        return name.replaceAll("[`\"\\[\\]]", "");
    }

    /** A conversion of Hibernate's. */
    private record Converted(BasicValueConverter<Object, Object> converter) implements Conversion {
        @Override
        public @Nullable Object toColumn(@Nullable Object value) {
            return value != null && converter.getDomainJavaType().isInstance(value)
                    ? converter.toRelationalValue(value)
                    : value;
        }

        @Override
        public Class<?> columnType() {
            return converter.getRelationalJavaType().getJavaTypeClass();
        }

        @Override
        public @Nullable Object toProperty(@Nullable Object stored) {
            try {
                return converter.toDomainValue(
                        JavaValue.to(converter.getRelationalJavaType().getJavaTypeClass(), stored));
            } catch (InexactValueException e) {
                throw new ZabbetException("A stored value cannot be converted: " + e.clause() + ".", e);
            }
        }
    }
}
