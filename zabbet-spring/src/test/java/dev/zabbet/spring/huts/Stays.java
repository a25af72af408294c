package dev.zabbet.spring.huts;

import org.springframework.data.jpa.repository.JpaRepository;

/** The stays. */
public interface Stays extends JpaRepository<Stay, Long> {}
