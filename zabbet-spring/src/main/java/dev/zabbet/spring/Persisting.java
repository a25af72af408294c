package dev.zabbet.spring;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Through;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Association;
import dev.zabbet.internal.type.TypeShape;
import jakarta.persistence.EntityManager;
import org.springframework.transaction.support.TransactionSynchronizationManager;

/**
 * Has an entity manager store what a factory makes: {@code stage.add(3, stays.through(Persisting.by(entities)))}. The objects
 * are attached to it, and its listeners, cascades and validation run.
 */
public final class Persisting {
    private Persisting() {}

    /**
     * {@return what persists an object, sends it to the database, and hands it back} Parents that it passes persisting on to,
     * and one whose key it has, are exchanged for those that the entity manager knows.
     *
     * <p>A transaction has to be open when it is used: that of a test under {@code @Transactional}, or of a template.
     *
     * @param <T> the type of the objects
     * @param entities the test's entity manager
     */
    public static <T> Through.Storing<T, T> by(EntityManager entities) {
        Words.notNull(entities, "entities", "Persisting.by");
        return object -> {
            if (!TransactionSynchronizationManager.isActualTransactionActive()) {
                throw new ZabbetException("An entity manager persists in a transaction only, and none is open. Put"
                        + " @Transactional on the test, or add the objects inside a TransactionTemplate.");
            }
            attachParents(object, entities);
            entities.persist(object);
            entities.flush();
            return object;
        };
    }

    @SuppressWarnings("unchecked")
    private static void attachParents(Object object, EntityManager entities) {
        TypeShape<Object> shape = TypeShape.of((Class<Object>) object.getClass());
        for (Association association : Association.of(object.getClass())) {
            boolean exchanged = association.passesOn("PERSIST") || association.isKey() || association.passesOn("MERGE");
            if (association.kind() != Association.Kind.PARENT || !exchanged) {
                continue;
            }
            shape.find(association.property()).ifPresent(prop -> {
                Object parent = shape.read(object, prop);
                Object key = parent == null ? null : shape.readStored(object, prop);
                if (parent != null && key != null && !entities.contains(parent)) {
                    shape.write(object, prop, entities.getReference(parent.getClass(), key));
                }
            });
        }
    }
}
