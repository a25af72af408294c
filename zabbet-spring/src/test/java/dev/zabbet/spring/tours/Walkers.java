package dev.zabbet.spring.tours;

import java.util.Collection;
import java.util.List;
import java.util.Optional;
import org.springframework.data.repository.Repository;
import org.springframework.transaction.annotation.Transactional;

/** The walkers. */
public interface Walkers extends Repository<Tour.Walker, Long> {
    Tour.Walker save(Tour.Walker walker);

    List<Tour.Walker> saveAll(Iterable<Tour.Walker> walkers);

    Optional<Tour.Walker> findById(long id);

    List<Tour.Walker> findAllById(Iterable<Long> ids);

    List<Tour.Walker> findByNameStartingWithIgnoreCaseOrderByNameDesc(String name);

    List<Tour.Walker> findByNameInOrNameIsNull(Collection<String> names);

    long countByNameNot(String name);

    boolean existsById(long id);

    void delete(Tour.Walker walker);

    void deleteById(long id);

    @Transactional
    long removeByName(String name);
}
