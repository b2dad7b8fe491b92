package deftlens.server.people;

import java.util.List;
import java.util.Optional;
import org.springframework.data.repository.Repository;

interface TeamStore extends Repository<Team, Long> {
    Team save(Team team);

    Team saveAndFlush(Team team);

    Optional<Team> findById(long id);

    Optional<Team> findByNameIgnoreCase(String name);

    void delete(Team team);

    List<Team> findAllByOrderByName();
}
