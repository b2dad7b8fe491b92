package deftlens.server.people;

import java.util.List;
import org.springframework.data.repository.Repository;

interface TeamStore extends Repository<Team, Long> {
    Team save(Team team);

    List<Team> findAllByOrderByName();
}
