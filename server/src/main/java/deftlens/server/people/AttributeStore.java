package deftlens.server.people;

import java.util.List;
import org.springframework.data.repository.Repository;

interface AttributeStore extends Repository<ViewerAttribute, String> {
    ViewerAttribute save(ViewerAttribute attribute);

    void delete(ViewerAttribute attribute);

    void flush();

    List<ViewerAttribute> findAllByOrderByPosition();
}
